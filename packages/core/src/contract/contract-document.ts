import { YamlSource } from '../definition/yaml-source.js';
import { AppError } from '../errors/app-error.js';
import { JsonLines } from './json-lines.js';
import { lineIn, readYamlLines, type YamlLines } from './yaml-lines.js';

/** One document of a contract, as it stands in its file. */
export interface ContractDocument {
  /** An absolute URL, by which other documents refer to it. */
  readonly address: string;
  readonly root: unknown;
  /** 1-based line of a path of keys. */
  readonly line: (path: readonly (string | number)[]) => number;
}

/** What reading a YAML document came to, so that another thread need not read it again. */
export interface ReadDocument {
  readonly address: string;
  readonly text: string;
  readonly root: unknown;
  readonly lines: YamlLines;
}

/** Aliases (`*name`) may repeat a value, but not blow a small document up to a large one. */
const MOST_ALIASES = 10_000;

interface KnownDocument {
  readonly text: string;
  readonly document: ContractDocument;
  /** Null: it is JSON, which is quickly read again. */
  readonly lines: YamlLines | null;
}

/** A document is asked for several times on its way (what does it refer to, what does it say), and again at each save. */
const latest: KnownDocument[] = [];
const MOST_KNOWN = 32;

/** Reads YAML or JSON. Fails with `file-refused` (line, column) or `file-unreadable`. */
export function readContractDocument(address: string, text: string): ContractDocument {
  const known = findKnown(address, text);
  if (known !== undefined) return known.document;
  return keep(readJson(address, text) ?? readYaml(address, text));
}

/** The YAML documents that were read here lately. */
export function listReadDocuments(): ReadDocument[] {
  return latest.flatMap(({ text, lines, document: { address, root } }) =>
    lines === null ? [] : [{ address, text, root, lines }],
  );
}

/** Takes over what another thread read. */
export function knowDocuments(documents: readonly ReadDocument[]): void {
  for (const { address, text, root, lines } of documents)
    if (findKnown(address, text) === undefined) keep(toKnown(address, text, root, lines));
}

function findKnown(address: string, text: string): KnownDocument | undefined {
  return latest.find((own) => own.document.address === address && own.text === text);
}

function keep(known: KnownDocument): ContractDocument {
  latest.unshift(known);
  latest.length = Math.min(latest.length, MOST_KNOWN);
  return known.document;
}

function readJson(address: string, text: string): KnownDocument | null {
  if (!/^\s*[{[]/.test(text)) return null;
  try {
    const root = JSON.parse(text) as unknown;
    const lines = new JsonLines(text);
    return { text, document: { address, root, line: (path) => lines.lineOf(path) }, lines: null };
  } catch {
    // It may be YAML all the same.
    return null;
  }
}

function readYaml(address: string, text: string): KnownDocument {
  const source = new YamlSource(text);
  const problems = source.mistakes();
  if (problems.length > 0) throw new AppError('file-refused', 'the document cannot be read', { problems });
  const root = source.document.toJS({ maxAliasCount: MOST_ALIASES }) as unknown;
  return toKnown(address, text, root, readYamlLines(source));
}

function toKnown(address: string, text: string, root: unknown, lines: YamlLines): KnownDocument {
  return { text, document: { address, root, line: (path) => lineIn(lines, path) }, lines };
}
