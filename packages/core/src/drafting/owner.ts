import type { JsonMap } from '../definition/json-map.js';
import { identify } from '../state/row-key.js';
import { toCamel } from './operation-words.js';
import type { RecordKind } from './record-kind.js';

/** The fields that tell rows of a kind apart. */
export function keyFields({ key, owner }: RecordKind): readonly string[] {
  return owner?.isKey === true ? [...owner.fields, key] : [key];
}

/** The keys of the owners that a path names before things of a kind; null where it names none. */
export function ownersInPath(name: string, count: number, segments: readonly string[]): readonly string[] | null {
  const at = segments.findLastIndex((segment) => toCamel(segment) === name);
  const first = at - 1 - 2 * (count - 1);
  if (at < 0 || first < 1) return null;
  return Array.from({ length: count }, (_, i) => segments[first + 2 * i] ?? '');
}

/** What names the owners of things: a path, and who calls. */
export interface Naming {
  readonly segments: readonly string[];
  readonly caller: string | null;
}

function ownersOf({ name, owner }: RecordKind, { segments, caller }: Naming): readonly string[] | null {
  if (owner?.by === 'caller') return caller === null ? null : [caller];
  return ownersInPath(name, owner?.fields.length ?? 0, segments);
}

/** A thing as a row: what an answer shows of it, with the keys of its owners. Null when they are not known. */
export function toRow(kind: RecordKind, map: JsonMap, naming: Naming): JsonMap | null {
  if (kind.owner === null || kind.owner.hidden.length === 0) return map;
  const { fields, hidden } = kind.owner;
  const owners = ownersOf(kind, naming);
  if (owners === null) return null;
  return { ...map, ...Object.fromEntries(hidden.map((field) => [field, owners[fields.indexOf(field)] ?? ''])) };
}

/** What a row is known by; the same for the same thing, and no other. Empty for a thing that is one of its kind. */
export function identityOf(kind: RecordKind, row: JsonMap): string {
  return kind.singlePath === null ? identify(keyFields(kind).map((field) => row[field])) : '';
}

/** Whether a path names this row: where keys are counted anew, only together with its owners. */
export function namesRow(kind: RecordKind, key: string, row: JsonMap, naming: Naming): boolean {
  const { segments } = naming;
  if (kind.owner?.isKey !== true) return segments.includes(key);
  const owners = ownersOf(kind, naming);
  if (owners === null || !kind.owner.fields.every((field, i) => String(row[field]) === owners[i])) return false;
  const at = segments.findLastIndex((segment) => toCamel(segment) === kind.name);
  return segments[at + 1] === key;
}

/** A row as answers show it. */
export function showRow(kind: RecordKind, row: JsonMap): JsonMap {
  const hidden = kind.owner?.hidden ?? [];
  if (hidden.length === 0) return row;
  return Object.fromEntries(Object.entries(row).filter(([field]) => !hidden.includes(field)));
}

/** The expression that gives a row as answers show it. */
export function showExpression(kind: RecordKind, text: string): string {
  const hidden = kind.owner?.hidden ?? [];
  return hidden.length === 0 ? text : `without(${text}, ${hidden.map((field) => `'${field}'`).join(', ')})`;
}
