import { isMap, isScalar, isSeq, type Node, parseDocument, stringify, type YAMLMap } from 'yaml';
import { quoteWhereNeeded } from './write-service-file.js';
import type { PathKey } from './yaml-source.js';

/**
 * A YAML text with entries put at the end of a map, written as blocks; everything else keeps its very characters. Null
 * where the map cannot be extended so (it is written in braces, or empty): such a text has to be written anew.
 */
export function insertEntry(text: string, path: readonly PathKey[], key: string, value: unknown): string | null {
  const map = parseDocument(text, { uniqueKeys: false }).getIn(path, true);
  if (!isMap(map) || map.flow === true || map.items.length === 0 || !map.range) return null;
  const indent = columnOf(text, keyStart(map));
  const end = lineEnd(text, lastOffset(text, map.range[1]));
  return splice(text, end, `\n${renderBlock({ [key]: value }, indent)}`);
}

/** As `insertEntry`, items at the beginning of the list under `key` of a map. */
export function insertItems(
  text: string,
  path: readonly PathKey[],
  key: string,
  items: readonly unknown[],
): string | null {
  const map = parseDocument(text, { uniqueKeys: false }).getIn(path, true);
  const pair = isMap(map) ? map.items.find((own) => isScalar(own.key) && own.key.value === key) : undefined;
  const list = pair?.value;
  if (!isSeq(list) || list.flow === true || list.items.length === 0) return null;
  const first = (list.items[0] as Node).range?.[0];
  const start = isScalar(pair?.key) ? pair.key.range?.[0] : undefined;
  if (first === undefined || start === undefined) return null;
  const dash = text.lastIndexOf('-', first - 1);
  // Directly below the key, so that comments before the first item stay with it.
  return splice(text, lineEnd(text, start), `\n${renderBlock(items, columnOf(text, dash))}`);
}

function keyStart({ items }: YAMLMap): number {
  const [first] = items;
  return isScalar(first?.key) ? (first.key.range?.[0] ?? 0) : 0;
}

function columnOf(text: string, offset: number): number {
  return offset - (text.lastIndexOf('\n', offset - 1) + 1);
}

/** Where the last line before an end is that says something: comments of their own below it go on below what is put in. */
function lastOffset(text: string, end: number): number {
  const lines = text.slice(0, end).split('\n');
  while (lines.length > 1 && /^\s*(#.*)?$/.test(lines.at(-1) ?? '')) lines.pop();
  return lines.join('\n').length;
}

/** A comment behind a value belongs to its line. */
function lineEnd(text: string, offset: number): number {
  const end = text.indexOf('\n', offset);
  return end < 0 ? text.length : end;
}

function renderBlock(value: unknown, indent: number): string {
  const document = parseDocument(stringify(value, { lineWidth: 0 }));
  quoteWhereNeeded(document);
  const lines = document.toString({ lineWidth: 0 }).trimEnd().split('\n');
  return lines.map((line) => (line === '' ? '' : ' '.repeat(indent) + line)).join('\n');
}

function splice(text: string, at: number, inserted: string): string {
  const rest = text.slice(at);
  return `${text.slice(0, at)}${inserted}${rest === '' ? '\n' : rest}`;
}
