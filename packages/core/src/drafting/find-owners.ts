import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import type { Heard } from './heard.js';
import { isSame } from './leaves.js';
import { toCamel } from './operation-words.js';
import { ownersInPath } from './owner.js';
import type { HeardPath } from './path-templates.js';
import type { Owner, RecordKind } from './record-kind.js';
import { kindNameAt, listsIn, parameterName, unwrap } from './records.js';

interface Shown {
  readonly owners: readonly string[];
  readonly key: string;
  readonly map: JsonMap;
}

/** Kinds whose things are found below those of another (`/ports/{}/visits/{}`) belong to these where the session needs it. */
export function findOwners(
  kinds: readonly RecordKind[],
  paths: readonly HeardPath[],
  session: readonly Heard[],
): RecordKind[] {
  const isShown = session.some(({ caller }) => caller !== null);
  const found = new Map<string, RecordKind>();
  const byDepth = [...kinds].sort((a, b) => depthOf(a, paths) - depthOf(b, paths));
  for (const kind of byDepth) {
    const owner = findOwner(kind, found, paths) ?? (isShown ? findCallerOwner(kind, paths) : null);
    found.set(kind.name, { ...kind, owner });
  }
  return kinds.map((kind) => found.get(kind.name) ?? kind);
}

function depthOf({ name }: RecordKind, paths: readonly HeardPath[]): number {
  return Math.max(0, ...paths.map(({ parts }) => indexOf(name, parts)));
}

function indexOf(name: string, parts: HeardPath['parts']): number {
  return parts.findLastIndex((part) => part !== null && toCamel(part) === name);
}

function findOwner(
  kind: RecordKind,
  known: ReadonlyMap<string, RecordKind>,
  paths: readonly HeardPath[],
): Owner | null {
  if (kind.singlePath !== null) return null;
  const own = paths.filter(({ parts }) => {
    const at = indexOf(kind.name, parts);
    return at >= 0 && parts.length - at <= 2;
  });
  const above = new Set(own.map(({ parts }) => kindNameAt(parts, indexOf(kind.name, parts) - 1) ?? ''));
  const [parentName = ''] = above;
  // Things that are also found elsewhere are not told apart by their owners.
  if (above.size !== 1 || parentName === '' || own.some(({ parts }) => parts[indexOf(kind.name, parts) - 1] !== null))
    return null;
  const parent = known.get(parentName) ?? null;
  const outer = parent?.owner?.isKey === true ? parent.owner.fields : [];
  const count = outer.length + 1;
  const shown = own.flatMap(({ heard }) =>
    heard.flatMap((item) => showings(kind, item, ownersInPath(kind.name, count, item.segments))),
  );
  const isKey = isCountedAnew(shown);
  if (isKey === null) return null;
  const at = outer.length;
  const field = findShownField(kind, shown, at);
  if (field !== null && !isKey) return null;
  const isListed = own.some(({ parts, heard }) => parts.at(-1) !== null && heard.some(({ isWrite }) => !isWrite));
  if (!isKey && !isListed) return null;
  const ownField = field ?? freeName(parameterName(parentName, parent), kind);
  const fields = [...outer, ownField];
  return { fields, hidden: fields.filter((name) => !kind.fields.has(name)), isKey, by: 'path' };
}

/** Things that each caller has of their own: no two are shown the same ones, though both ask for them. */
function findCallerOwner(kind: RecordKind, paths: readonly HeardPath[]): Owner | null {
  if (kind.singlePath !== null) return null;
  const own = paths.filter(({ parts }) => {
    const at = indexOf(kind.name, parts);
    return at >= 0 && parts.length - at <= 2;
  });
  const heard = own.flatMap((path) => path.heard).sort((a, b) => a.position - b.position);
  const shown = heard.flatMap((item) => showings(kind, item, item.caller === null ? null : [item.caller]));
  const isKey = isCountedAnew(shown);
  const callers = new Set(shown.map(({ owners }) => owners[0]));
  if (isKey === null || callers.size < 2) return null;
  if (!isKey && !heard.some((item) => listsOnlyOwn(kind, item, heard))) return null;
  const field = findShownField(kind, shown, 0) ?? freeName('caller', kind);
  if (!isKey && kind.fields.has(field)) return null;
  return { fields: [field], hidden: kind.fields.has(field) ? [] : [field], isKey, by: 'caller' };
}

/** A list that leaves out what another caller was shown before. */
function listsOnlyOwn(kind: RecordKind, item: Heard, heard: readonly Heard[]): boolean {
  const at = item.segments.findLastIndex((segment) => toCamel(segment) === kind.name);
  if (item.isWrite || !item.isSuccess || item.caller === null || at !== item.segments.length - 1) return false;
  return heard.some(
    (other) =>
      other.position < item.position &&
      other.caller !== null &&
      other.caller !== item.caller &&
      showings(kind, other, [other.caller]).length > 0,
  );
}

/** The things of a kind that an answer shows, with the owners its path names. */
function showings(kind: RecordKind, { isSuccess, answerJson }: Heard, owners: readonly string[] | null): Shown[] {
  if (owners === null || !isSuccess) return [];
  const listed = listsIn(answerJson).flatMap(({ items }) => items.filter(isJsonMap));
  return [...unwrap(answerJson).map(([, map]) => map), ...listed].flatMap((map) => {
    const key = map[kind.key];
    const isKnown = (typeof key === 'string' || typeof key === 'number') && kind.keys.has(String(key));
    return isKnown ? [{ owners, key: String(key), map }] : [];
  });
}

/** Whether a key names different things under different owners; null when it names the same ones. */
function isCountedAnew(shown: readonly Shown[]): boolean | null {
  const first = new Map<string, Map<string, JsonMap>>();
  for (const { owners, key, map } of shown) {
    const byOwner = first.get(key) ?? new Map<string, JsonMap>();
    first.set(key, byOwner);
    const owner = JSON.stringify(owners);
    if (!byOwner.has(owner)) byOwner.set(owner, map);
  }
  const shared = [...first.values()].filter((byOwner) => byOwner.size > 1);
  const same = shared.filter((byOwner) => {
    const [one, ...others] = byOwner.values();
    return others.every((other) => isSame(one, other));
  });
  return same.length > 0 ? null : shared.length > 0;
}

/** A field in which every row shows the key of its owner. */
function findShownField(kind: RecordKind, shown: readonly Shown[], at: number): string | null {
  const fields = [...kind.fields].filter((field) => field !== kind.key);
  const isOwner = (field: string): boolean =>
    shown.length > 0 && shown.every(({ map, owners }) => map[field] !== undefined && String(map[field]) === owners[at]);
  return fields.find(isOwner) ?? null;
}

function freeName(name: string, { fields }: RecordKind): string {
  let free = name;
  for (let n = 2; fields.has(free); n++) free = `${name}${n}`;
  return free;
}
