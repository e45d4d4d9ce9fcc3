import fontoxpath from 'fontoxpath';
import { Document, type Node, serializeToWellFormedString } from 'slimdom';

/** Prefixes for XPath: prefix -> namespace. */
export type Namespaces = Readonly<Record<string, string>>;

/** The values an XPath selects in a document, each as its text; nothing for a document in which it makes no sense. */
export type SelectTexts = (document: Node) => readonly string[];

export type CompiledXPath =
  | { readonly kind: 'compiled'; readonly select: SelectTexts; readonly isSingle: boolean }
  | { readonly kind: 'refused'; readonly message: string };

const LANGUAGE = fontoxpath.evaluateXPath.XPATH_3_1_LANGUAGE;
/** Loops over numbers run as long as the numbers say; a call cannot wait for them. */
const RANGES = /rangeSequenceExpr/;
/** Functions that give one value whatever they are given. */
const SINGLE = /^\s*(string|count|number|boolean|normalize-space|concat|sum|exists|not|local-name)\s*\(.*\)\s*$/s;

/** XPath 3.1 with the given prefixes; refused with what is wrong where it cannot be asked of any document. */
export function compileXPath(expression: string, namespaces: Namespaces): CompiledXPath {
  const trouble = findTrouble(expression, namespaces);
  if (trouble !== null) return { kind: 'refused', message: trouble };
  const select: SelectTexts = (document) => {
    try {
      return evaluate(expression, document, namespaces).map(toText);
    } catch {
      return [];
    }
  };
  return { kind: 'compiled', select, isSingle: SINGLE.test(expression) };
}

function findTrouble(expression: string, namespaces: Namespaces): string | null {
  if (expression === '') return '`xml` needs an XPath: xml //m:vessel';
  try {
    const syntax = fontoxpath.parseScript(expression, { language: LANGUAGE }, new Document() as never);
    if (RANGES.test(serializeToWellFormedString(syntax as never))) return 'ranges (1 to 9) cannot be asked here';
  } catch {
    return `not an XPath: ${expression}`;
  }
  try {
    evaluate(expression, new Document(), namespaces);
  } catch (error) {
    const [code = '', ...words] = ((error as Error).message.split('\n')[0] ?? '').split(': ');
    const prefix = /prefix (\S+) could/.exec(words.join(': '))?.[1];
    if (code === 'XPST0081' && prefix !== undefined)
      return `the prefix \`${prefix}\` is not declared: namespaces: { ${prefix}: ... }`;
    // What goes wrong with this one empty document alone may go right with others.
    if (code.startsWith('XPST')) return `not an XPath: ${words.join(': ')}`;
  }
  return null;
}

function evaluate(expression: string, document: Node, namespaces: Namespaces): readonly unknown[] {
  const namespaceResolver = (prefix: string) => (Object.hasOwn(namespaces, prefix) ? namespaces[prefix] : null) ?? null;
  const all = fontoxpath.ReturnType.ALL_RESULTS;
  return fontoxpath.evaluateXPath(expression, document as never, null, {}, all, {
    namespaceResolver,
    language: LANGUAGE,
  } as never) as readonly unknown[];
}

function toText(value: unknown): string {
  if (value !== null && typeof value === 'object' && 'nodeType' in value) {
    const node = value as Node & { readonly value?: string };
    return node.textContent ?? node.value ?? '';
  }
  return value instanceof Date ? value.toISOString() : String(value);
}
