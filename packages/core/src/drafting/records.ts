import { singularOf } from '../contract/word-forms.js';
import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import { isKeyName } from './explain-made.js';
import type { Heard } from './heard.js';
import { eachMap, isSame } from './leaves.js';
import { toCamel } from './operation-words.js';
import type { HeardPath } from './path-templates.js';
import type { RecordKind } from './record-kind.js';

/** The literal before a parameter names what it is of; `/berths/{}/bookings/{}` has berths and bookings. */
export function kindNameAt(parts: readonly (string | null)[], index: number): string | null {
  const before = parts[index - 1];
  return before === undefined || before === null ? null : toCamel(before);
}

interface Candidate {
  readonly values: Set<string>;
  readonly maps: JsonMap[];
}

/** Members that wrap the thing itself. */
export function unwrap(json: unknown): readonly (readonly [steps: readonly string[], map: JsonMap])[] {
  if (!isJsonMap(json)) return [];
  const inner = Object.entries(json).flatMap(([name, member]) =>
    isJsonMap(member) ? ([[[name], member]] as const) : [],
  );
  return [[[], json], ...inner];
}

/** The kinds of things there are, each with the field by which paths name it. Kinds whose key is never seen in an answer are none. */
export function findKinds(paths: readonly HeardPath[]): RecordKind[] {
  const candidates = new Map<string, Candidate>();
  for (const { parts, heard } of paths) {
    parts.forEach((part, i) => {
      const name = part === null ? kindNameAt(parts, i) : null;
      if (name === null) return;
      const candidate = candidates.get(name) ?? { values: new Set(), maps: [] };
      candidates.set(name, candidate);
      for (const item of heard) {
        candidate.values.add(item.segments[i] ?? '');
        if (i >= parts.length - 2 && item.isSuccess) addItemMaps(item, candidate.maps, item.segments[i] ?? '');
      }
    });
  }
  for (const { parts, heard } of paths) addCollectionMaps(parts, heard, candidates);
  for (const path of paths) addCollection(path, candidates);
  const kinds = [...candidates].flatMap(([name, candidate]) => toKind(name, candidate) ?? []);
  const named = addOtherSightings(kinds, paths);
  const taken = new Set(named.map(({ name }) => name));
  return [...named, ...findSingles(paths).filter(({ name }) => !taken.has(name))];
}

/** What a parameter is called that names things of a kind: `bookingId`; `imo` where their own key is called so. */
export function parameterName(word: string, kind: RecordKind | null): string {
  const noun = toCamel(singularOf(word)) || 'item';
  const isPlainKey = kind === null || /^_?id$/i.test(kind.key) || !/^[A-Za-z_]\w*$/.test(kind.key);
  return isPlainKey ? `${noun}Id` : kind.key;
}

/** Things that are one of their kind: a path without parameters whose map is read and written. */
function findSingles(paths: readonly HeardPath[]): RecordKind[] {
  return paths.flatMap(({ parts, heard }) => {
    if (parts.includes(null)) return [];
    const done = heard.filter(({ isSuccess }) => isSuccess);
    const reads = done.filter(({ isWrite }) => !isWrite);
    const isWritten = done.some(
      ({ isWrite, sentJson, exchange }) =>
        isWrite && (isJsonMap(sentJson) || exchange.method === 'DELETE') && exchange.method !== 'POST',
    );
    const maps = reads.map(({ answerJson }) => answerJson);
    if (!(isWritten || isChangedBelow(parts, maps, paths)) || maps.length === 0 || !maps.every(isPlainMap)) return [];
    const name = toCamel(parts.at(-1) ?? '');
    if (!/^[A-Za-z_]\w*$/.test(name)) return [];
    return [
      {
        name,
        noun: name,
        key: '',
        singlePath: parts.join('/'),
        isNumeric: false,
        keys: new Set(['']),
        fields: new Set(maps.flatMap((map) => Object.keys(map as JsonMap))),
        owner: null,
      },
    ];
  });
}

/** Writes below its path (`POST /account/deposits`), and it reads otherwise afterwards. */
function isChangedBelow(
  parts: readonly (string | null)[],
  maps: readonly unknown[],
  paths: readonly HeardPath[],
): boolean {
  const isWrittenBelow = paths.some(
    (path) =>
      path.parts.length > parts.length &&
      parts.every((part, i) => path.parts[i] === part) &&
      path.heard.some(({ isWrite, isSuccess }) => isWrite && isSuccess),
  );
  return isWrittenBelow && maps.some((map) => !isSame(map, maps[0]));
}

/** A thing, not a list of things in an envelope. */
function isPlainMap(json: unknown): boolean {
  return isJsonMap(json) && Object.keys(json).length > 0 && !listsIn(json).some(({ items }) => items.some(isJsonMap));
}

const LEAST_LIKENESS = 0.8;

/** Keys that only answers at other paths show: `/berths/free` lists berths, too. */
function addOtherSightings(kinds: readonly RecordKind[], paths: readonly HeardPath[]): RecordKind[] {
  const keys = new Map(kinds.map((kind) => [kind, new Set(kind.keys)]));
  for (const { heard } of paths) {
    for (const item of heard) {
      if (!item.isSuccess) continue;
      eachMap(item.answerJson, (map) => {
        for (const kind of kinds) {
          const key = map[kind.key];
          if (key === undefined || key === null || typeof key === 'object') continue;
          const fields = Object.keys(map);
          const known = fields.filter((field) => kind.fields.has(field)).length;
          if (known >= LEAST_LIKENESS * fields.length && known > 1) keys.get(kind)?.add(String(key));
        }
        return true;
      });
    }
  }
  return kinds.map((kind) => ({ ...kind, keys: keys.get(kind) ?? kind.keys }));
}

/** The maps of an answer; with a key, those that hold it: an answer may be about another thing than its path. */
function addItemMaps(item: Heard, maps: JsonMap[], key: string | null = null): void {
  for (const [, map] of unwrap(item.answerJson))
    if (key === null || Object.values(map).some((value) => String(value) === key)) maps.push(map);
}

/** Lists and creations at the path above the parameter show the same things. */
function addCollectionMaps(
  parts: readonly (string | null)[],
  heard: readonly Heard[],
  candidates: ReadonlyMap<string, Candidate>,
): void {
  const last = parts.at(-1);
  const candidate = last === null || last === undefined ? undefined : candidates.get(toCamel(last));
  if (candidate === undefined) return;
  for (const item of heard) {
    if (!item.isSuccess) continue;
    if (item.isWrite) addItemMaps(item, candidate.maps);
    else for (const list of listsIn(item.answerJson)) candidate.maps.push(...list.items.filter(isJsonMap));
  }
}

/** A list that grows by what is posted to it holds things of one kind, though no path names one of them. */
function addCollection({ parts, heard }: HeardPath, candidates: Map<string, Candidate>): void {
  const last = parts.at(-1);
  if (last === null || last === undefined || !/^[A-Za-z_]/.test(last) || candidates.has(toCamel(last))) return;
  const done = heard.filter(({ isSuccess }) => isSuccess);
  const lists = done
    .filter(({ isWrite }) => !isWrite)
    .flatMap(({ answerJson }) => listsIn(answerJson).map(({ items }) => items.filter(isJsonMap)));
  const made = done
    .filter(({ exchange }) => exchange.method === 'POST')
    .flatMap(({ answerJson }) => unwrap(answerJson).map(([, map]) => map));
  const values = new Set(made.flatMap((map) => keysIn(map, lists)));
  if (values.size > 0) candidates.set(toCamel(last), { values, maps: [...made, ...lists.flat()] });
}

/** The values of what was made by which lists show it, in fields that no two items of a list share. */
function keysIn(made: JsonMap, lists: readonly (readonly JsonMap[])[]): string[] {
  return Object.entries(made).flatMap(([field, value]) => {
    if (typeof value !== 'string' && typeof value !== 'number') return [];
    const isShown = lists.some((items) => items.some((item) => item[field] === value));
    const isUnique = lists.every((items) => new Set(items.map((item) => item[field])).size === items.length);
    return isShown && isUnique && isKeyName(field) ? [String(value)] : [];
  });
}

/** The lists of maps in an answer: the answer itself, or members of it. */
export function listsIn(json: unknown): { readonly steps: readonly string[]; readonly items: readonly unknown[] }[] {
  if (Array.isArray(json)) return [{ steps: [], items: json }];
  if (!isJsonMap(json)) return [];
  return Object.entries(json).flatMap(([name, member]) => {
    if (Array.isArray(member)) return [{ steps: [name], items: member }];
    if (!isJsonMap(member)) return [];
    return Object.entries(member).flatMap(([inner, value]) =>
      Array.isArray(value) ? [{ steps: [name, inner], items: value }] : [],
    );
  });
}

function toKind(name: string, { values, maps }: Candidate): RecordKind | null {
  const noun = singularOf(name);
  const votes = new Map<string, number>();
  for (const map of maps) {
    for (const [field, value] of Object.entries(map)) {
      if ((typeof value === 'string' || typeof value === 'number') && values.has(String(value)))
        votes.set(field, (votes.get(field) ?? 0) + weightOf(field, noun));
    }
  }
  const best = [...votes].sort((a, b) => b[1] - a[1])[0];
  if (best === undefined) return null;
  const [key] = best;
  const own = maps.filter((map) => map[key] !== undefined && map[key] !== null && typeof map[key] !== 'object');
  return {
    name,
    noun,
    key,
    singlePath: null,
    isNumeric: own.every((map) => typeof map[key] === 'number'),
    keys: new Set(own.map((map) => String(map[key]))),
    fields: new Set(own.flatMap((map) => Object.keys(map))),
    owner: null,
  };
}

/** A field called like a key of its own is more likely one than any other that holds the same value. */
function weightOf(field: string, noun: string): number {
  if (/^_?id$/i.test(field)) return 3;
  if (field.toLowerCase() === `${noun}id`.toLowerCase() || field.toLowerCase() === `${noun}_id`.toLowerCase())
    return 2.5;
  return /(Id|_id)$/.test(field) ? 0.8 : 1;
}
