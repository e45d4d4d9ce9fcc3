import {
  type Document,
  isAlias,
  isMap,
  isNode,
  isScalar,
  isSeq,
  LineCounter,
  type Node,
  parseDocument,
  Scalar,
  visit,
  type YAMLMap,
} from 'yaml';
import type { FileProblem } from '../errors/app-error.js';
import { toExact } from '../json/exact-json.js';

export type PathKey = string | number;

/** Where a problem is said to be: at the value of a path, or at its key. */
export interface Spot {
  readonly path: readonly PathKey[];
  /** At the key itself rather than at its value. */
  readonly atKey?: boolean;
  /** Characters into the text of the value, for mistakes inside an expression. */
  readonly offset?: number;
}

/** A parsed YAML (or JSON) text that knows where everything stands, and keeps comments. */
export class YamlSource {
  readonly text: string;
  readonly document: Document;
  readonly #lines: LineCounter;

  constructor(text: string) {
    this.text = text;
    this.#lines = new LineCounter();
    this.document = parseDocument(text, {
      lineCounter: this.#lines,
      // Looked for below: the parser compares each key with all the others of its map.
      uniqueKeys: false,
      prettyErrors: false,
      logLevel: 'error',
    });
  }

  /** The plain value; only to be asked for when `syntaxProblems` found nothing. */
  value(): unknown {
    // Whole numbers that a double does not hold are written as expressions, which keep their digits.
    visit(this.document, {
      Scalar: (key, node) => {
        if (key === 'key' || typeof node.value !== 'number' || node.source === undefined) return;
        if (toExact(node.source) !== null) node.value = `\${${node.source}}`;
      },
    });
    return this.document.toJS({ maxAliasCount: 0 });
  }

  /** 1-based line and column of a spot; of the nearest thing above it that is written down. */
  position(spot: Spot): { line: number; column: number } {
    const offset = spot.atKey === true ? this.#keyOffset(spot.path) : this.#valueOffset(spot);
    return this.#at(offset);
  }

  /** 1-based line of a place in the text. */
  lineAt(offset: number): number {
    return this.#at(offset).line;
  }

  problem(spot: Spot, message: string, more: { expected?: string; nearest?: string } = {}): FileProblem {
    return { message, path: renderPath(spot.path), ...this.position(spot), ...more };
  }

  /** What YAML itself refuses: bad syntax, else keys that stand twice in a map. */
  mistakes(): FileProblem[] {
    const problems = this.document.errors.map((error) =>
      this.#problemAt(error.pos[0], this.#explainSyntax(error.message, error.pos[0])),
    );
    // What follows the first mistake of a line is mostly its echo.
    if (problems.length > 0)
      return problems.filter((problem, i) => problems.findIndex((other) => other.line === problem.line) === i);
    visit(this.document, {
      Map: (_key, map) => {
        for (const key of repeatedKeys(map)) {
          const message = `the key \`${String(key.value)}\` stands in this map already; keys are unique`;
          problems.push(this.#problemAt(key.range?.[0] ?? 0, message));
        }
      },
    });
    return problems;
  }

  /** The mistakes, or else what YAML would misread: aliases, anchors, tags, an unterminated `${`. */
  syntaxProblems(): FileProblem[] {
    const problems = this.mistakes();
    if (problems.length > 0) return problems;
    for (const warning of this.document.warnings) {
      const tag = /Unresolved tag: (\S+)/.exec(warning.message)?.[1];
      const message =
        tag === undefined ? warning.message : `this is read as a YAML tag; write the text in quotes: "${tag} ..."`;
      problems.push(this.#problemAt(warning.pos[0], message));
    }
    visit(this.document, {
      Pair: (_key, pair) => {
        const key = pair.key;
        if (isMap(key) || isSeq(key))
          problems.push(
            this.#problemAt(
              key.range?.[0] ?? 0,
              'this is read as a map or a list in the place of a key; write the key in quotes',
            ),
          );
      },
      Node: (_key, node) => {
        const misread = this.#misread(node as Node);
        if (misread !== null) problems.push(this.#problemAt(node.range?.[0] ?? 0, misread));
      },
    });
    return problems;
  }

  #problemAt(offset: number, message: string): FileProblem {
    return { message, path: '', ...this.#at(offset) };
  }

  #at(offset: number): { line: number; column: number } {
    const { line, col } = this.#lines.linePos(offset);
    return { line: Math.max(1, line), column: Math.max(1, col) };
  }

  #explainSyntax(message: string, offset: number): string {
    const line = this.#lineText(offset);
    const unquoted = /:\s+[^'"\s|>#][^'"]*\$\{/.test(line) || /\{[^'"]*\$\{/.test(line);
    return unquoted ? `${message}. A text with \${ is written in quotes: "\${...}"` : message;
  }

  #misread(node: Node): string | null {
    if (isAlias(node)) return `this is read as a YAML alias; write it in quotes: "*${node.source}"`;
    const { anchor } = node as { anchor?: string };
    if (anchor !== undefined) return `this is read as a YAML anchor; write it in quotes: "&${anchor}"`;
    if (!isScalar(node) || typeof node.value !== 'string' || node.type !== Scalar.PLAIN) return null;
    const open = node.value.lastIndexOf('${');
    if (open < 0 || node.value.indexOf('}', open) >= 0) return null;
    return `the text ends before its \${ is closed; write the whole of it in quotes: ${quotedRest(this.#lineText(node.range?.[0] ?? 0))}`;
  }

  #lineText(offset: number): string {
    const start = this.text.lastIndexOf('\n', offset - 1) + 1;
    const end = this.text.indexOf('\n', offset);
    return this.text.slice(start, end < 0 ? undefined : end);
  }

  #valueOffset(spot: Spot): number {
    for (let length = spot.path.length; length >= 0; length--) {
      const node = length === 0 ? this.document.contents : this.document.getIn(spot.path.slice(0, length), true);
      if (!isNode(node) || !node.range) continue;
      const start = node.range[0];
      if (length < spot.path.length || spot.offset === undefined || !isScalar(node)) return start;
      const quote = node.type === Scalar.QUOTE_DOUBLE || node.type === Scalar.QUOTE_SINGLE ? 1 : 0;
      const isBlock = node.type === Scalar.BLOCK_LITERAL || node.type === Scalar.BLOCK_FOLDED;
      return isBlock ? start : start + quote + spot.offset;
    }
    return 0;
  }

  #keyOffset(path: readonly PathKey[]): number {
    const parent = path.length === 1 ? this.document.contents : this.document.getIn(path.slice(0, -1), true);
    if (isMap(parent)) {
      for (const pair of parent.items) {
        const key = pair.key;
        if (isScalar(key) && String(key.value) === String(path.at(-1)) && key.range) return key.range[0];
      }
    }
    if (isSeq(parent) && parent.range) return parent.range[0];
    return this.#valueOffset({ path: path.slice(0, -1) });
  }
}

/** The keys of a map that stand in it before already. */
function repeatedKeys(map: YAMLMap): Scalar[] {
  const seen = new Set<string>();
  return map.items.flatMap(({ key }) => {
    if (!isScalar(key)) return [];
    const name = String(key.value);
    if (seen.has(name)) return [key];
    seen.add(name);
    return [];
  });
}

/** `operations.readBerth.cases[0].when` of a path of keys. */
export function renderPath(path: readonly PathKey[]): string {
  return path.map((key, i) => (typeof key === 'number' ? `[${key}]` : i === 0 ? key : `.${key}`)).join('');
}

function quotedRest(line: string): string {
  const match = /^(\s*(?:- )?[^:]+:\s+)(.*)$/.exec(line);
  return match === null ? JSON.stringify(line.trim()) : `${(match[1] ?? '').trim()} ${JSON.stringify(match[2] ?? '')}`;
}
