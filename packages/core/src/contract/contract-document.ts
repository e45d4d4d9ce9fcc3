import { YamlSource } from '../definition/yaml-source.js';
import { AppError } from '../errors/app-error.js';
import { JsonLines } from './json-lines.js';

/** One document of a contract, as it stands in its file. */
export interface ContractDocument {
  /** An absolute URL, by which other documents refer to it. */
  readonly address: string;
  readonly root: unknown;
  /** 1-based line of a path of keys. */
  readonly line: (path: readonly (string | number)[]) => number;
}

/** Aliases (`*name`) may repeat a value, but not blow a small document up to a large one. */
const MOST_ALIASES = 10_000;

interface KnownDocument {
  readonly text: string;
  readonly document: ContractDocument;
}

/** A document is asked for several times on its way (what does it refer to, what does it say), and again at each save. */
const latest: KnownDocument[] = [];
const MOST_KNOWN = 32;

/** Reads YAML or JSON. Fails with `file-refused` (line, column) or `file-unreadable`. */
export function readContractDocument(address: string, text: string): ContractDocument {
  const known = latest.find((own) => own.document.address === address && own.text === text);
  if (known !== undefined) return known.document;
  const document = parseDocument(address, text);
  latest.unshift({ text, document });
  latest.length = Math.min(latest.length, MOST_KNOWN);
  return document;
}

function parseDocument(address: string, text: string): ContractDocument {
  const fast = /^\s*[{[]/.test(text) ? tryJson(text) : undefined;
  if (fast !== undefined) {
    const lines = new JsonLines(text);
    return { address, root: fast, line: (path) => lines.lineOf(path) };
  }
  const source = new YamlSource(text);
  const problems = source.mistakes();
  if (problems.length > 0) throw new AppError('file-refused', 'the document cannot be read', { problems });
  const root = source.document.toJS({ maxAliasCount: MOST_ALIASES }) as unknown;
  return { address, root, line: (path) => source.position({ path }).line };
}

function tryJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
