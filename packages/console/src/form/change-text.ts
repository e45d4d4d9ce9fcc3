import { editText } from '@upsetter/core/writing';
import { isCollection, isMap, isScalar, isSeq, parseDocument, stringify } from 'yaml';

/** Steps into a file: keys of maps, positions in lists. */
export type FilePath = readonly (string | number)[];

/** A text as the values that stand in it; null: it cannot be read. */
export function readText(text: string): unknown {
  const document = parseDocument(text, { uniqueKeys: false, logLevel: 'silent' });
  return document.errors.length > 0 ? null : document.toJS({ maxAliasCount: 0 });
}

/** The text with a value put at a place; comments and everything else stay. */
export function putValue(text: string, path: FilePath, value: unknown): string {
  return editText(text, (document) => {
    const made = document.createNode(value);
    // Where there was one line in braces, there is one again.
    const before = document.getIn(path, true);
    if (isCollection(made) && isCollection(before) && before.flow === true) made.flow = true;
    document.setIn(path, made);
  });
}

export function removeValue(text: string, path: FilePath): string {
  return editText(text, (document) => document.deleteIn(path));
}

/** The text with another name for an entry of a map, where no other has it. */
export function renameKey(text: string, path: FilePath, name: string): string {
  return editText(text, (document) => {
    const map = document.getIn(path.slice(0, -1), true);
    if (!isMap(map) || map.has(name)) return;
    const pair = map.items.find(({ key }) => isScalar(key) && String(key.value) === String(path.at(-1)));
    if (pair !== undefined && isScalar(pair.key)) pair.key.value = name;
  });
}

/** The text with an item of a list moved up (-1) or down (1). */
export function moveItem(text: string, path: FilePath, by: -1 | 1): string {
  return editText(text, (document) => {
    const list = document.getIn(path.slice(0, -1), true);
    const at = Number(path.at(-1));
    if (!isSeq(list) || list.items[at + by] === undefined) return;
    const [item] = list.items.splice(at, 1);
    list.items.splice(at + by, 0, item);
  });
}

/** A value as the YAML that is typed for it. */
export function writeValue(value: unknown): string {
  return value === undefined ? '' : stringify(value, { lineWidth: 0 }).trimEnd();
}

export type ReadValue =
  | { readonly kind: 'value'; readonly value: unknown }
  | { readonly kind: 'unreadable'; readonly reason: string };

/** What was typed, as a value. */
export function readValue(text: string): ReadValue {
  const document = parseDocument(text, { logLevel: 'silent' });
  const [error] = document.errors;
  if (error !== undefined) return { kind: 'unreadable', reason: error.message.split('\n')[0] ?? '' };
  return { kind: 'value', value: document.toJS({ maxAliasCount: 0 }) };
}
