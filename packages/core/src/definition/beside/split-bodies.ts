import type { StoredFile } from '../answer-forms.js';
import type { PathKey } from '../yaml-source.js';
import { type BodySpot, bodySpots, spotId } from './body-spots.js';
import { type BesideFile, type BesideFiles, isReference } from './service-text.js';
import { writeRows } from './table-file.js';

/** A body of more characters or lines than this, written down, has a file of its own: the service file stays readable. */
const LARGE_CHARACTERS = 4_000;
const LARGE_LINES = 150;

/** A body that gets a file of its own. */
export interface SplitBody {
  readonly path: readonly PathKey[];
  readonly name: string;
  readonly file: BesideFile;
}

/**
 * The large bodies of a definition with the names and contents of their files; those that had a file before (`named`, by
 * `spotId`) keep its name, whatever their length.
 */
export function splitBodies(
  definition: unknown,
  folder: string,
  named: ReadonlyMap<string, string> = new Map(),
): SplitBody[] {
  const taken = new Set(named.values());
  return bodySpots(definition).flatMap((spot): SplitBody[] => {
    const before = named.get(spotId(spot));
    if (isReference(spot.value) || (before === undefined && !isLarge(spot.value))) return [];
    const name = before ?? freeName(spot, folder, taken);
    taken.add(name);
    return [{ path: spot.path, name, file: toFile(spot, name) }];
  });
}

/** The definition with the names of files in the place of bodies; the one given stays as it is. */
export function withReferences(definition: unknown, bodies: readonly SplitBody[]): unknown {
  return copyWith(definition, bodies, 0);
}

/** Copies what lies on the way to a body, each thing once. */
function copyWith(node: unknown, bodies: readonly SplitBody[], depth: number): unknown {
  const [first] = bodies;
  if (first === undefined) return node;
  if (first.path.length === depth) return first.name;
  const copy = (Array.isArray(node) ? [...node] : { ...(node as object) }) as Record<PathKey, unknown>;
  const byKey = groupBy(bodies, ({ path }) => path[depth] ?? '');
  for (const [key, own] of byKey) copy[key] = copyWith(copy[key], own, depth + 1);
  return copy;
}

export function filesOf(bodies: readonly SplitBody[]): BesideFiles {
  return Object.fromEntries(bodies.map(({ name, file }) => [name, file]));
}

function isLarge(value: unknown): boolean {
  const left = spendCharacters(value, LARGE_CHARACTERS);
  return left < 0 || (LARGE_CHARACTERS - left > LARGE_LINES && countLines(value) > LARGE_LINES);
}

/** What a value, written as JSON, leaves of so many characters; below 0: it takes more. Nothing is written for it. */
function spendCharacters(value: unknown, characters: number): number {
  if (typeof value === 'string') return characters - value.length - 2;
  if (value === null || typeof value !== 'object') return characters - String(value).length;
  let left = characters - 2;
  for (const key in value) {
    if (left < 0) return left;
    const name = Array.isArray(value) ? 1 : key.length + 4;
    left = spendCharacters((value as Record<string, unknown>)[key], left - name);
  }
  return left;
}

/** About how many lines a value takes in YAML. */
function countLines(value: unknown): number {
  if (typeof value === 'string') return value.split('\n').length;
  if (value === null || typeof value !== 'object') return 1;
  return Object.values(value).reduce((sum: number, item) => sum + countLines(item), 0);
}

const ENDINGS = { json: 'json', rows: 'json', text: 'txt', base64: 'bin', file: 'bin' } as const;

/** `./berth-desk/listBerths.usual.json` */
function freeName({ of, form }: BodySpot, folder: string, taken: ReadonlySet<string>): string {
  const words = of.map((word) => word.replaceAll(/[^A-Za-z0-9]+/g, '-').replaceAll(/^-|-$/g, '') || 'body');
  const start = `./${folder}/${words.join('.')}`;
  const ending = ENDINGS[form];
  let name = `${start}.${ending}`;
  for (let n = 2; taken.has(name); n++) name = `${start}-${n}.${ending}`;
  return name;
}

function toFile({ form, value }: BodySpot, name: string): BesideFile {
  const table = form === 'rows' ? writeRows(name, value) : null;
  if (table !== null) return { kind: 'text', content: table };
  if (form === 'json' || form === 'rows') return { kind: 'text', content: `${JSON.stringify(value, null, 2)}\n` };
  if (form === 'file') return toBytesFile(value as FileValue);
  return { kind: form, content: String(value) };
}

type FileValue = { readonly content: string } | StoredFile;

function toBytesFile(file: FileValue): BesideFile {
  return 'path' in file
    ? { kind: 'path', content: file.path, size: file.size }
    : { kind: 'base64', content: file.content };
}

function groupBy<K, T>(items: readonly T[], keyOf: (item: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>();
  for (const item of items) {
    const group = groups.get(keyOf(item));
    if (group === undefined) groups.set(keyOf(item), [item]);
    else group.push(item);
  }
  return groups;
}
