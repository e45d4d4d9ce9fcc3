import { readDate } from '../matching/comparing/read-value.js';
import type { Row } from '../state/rows.js';
import { compileField } from './row-filter.js';

/** One field that a list is sorted by. */
export interface SortKey {
  readonly field: string;
  readonly isDescending: boolean;
}

/** `-arrival,name` as fields with their directions. */
export function parseSort(text: string): readonly SortKey[] {
  return text
    .split(',')
    .map((part) => part.trim())
    .filter((part) => part.replace(/^[-+]/, '') !== '')
    .map((part) => ({ field: part.replace(/^[-+]/, ''), isDescending: part.startsWith('-') }));
}

type CompareAt = (a: number, b: number) => number;

/**
 * Rows `from` to `to` (exclusive) of the sorted list, rows that are equal in the order of their arrival. Only that part is
 * sorted, so that a page costs about one pass over the rows: of the first pages, the least rows so far are kept; of later
 * ones, what stands before and after is parted from it (quickselect).
 */
export function sortSlice(rows: readonly Row[], keys: readonly SortKey[], from: number, to: number): Row[] {
  const end = Math.min(to, rows.length);
  if (from >= end) return [];
  const compare = compileCompare(rows, keys);
  if (end * FEW < rows.length)
    return smallest(rows.length, end, compare)
      .slice(from)
      .map((place) => rows[place] as Row);
  const places = new Uint32Array(rows.length);
  for (let i = 0; i < places.length; i++) places[i] = i;
  partAt(places, from, 0, places.length, compare);
  partAt(places, end, from, places.length, compare);
  return [...places.subarray(from, end).sort(compare)].map((place) => rows[place] as Row);
}

/** A page counts as one of the first where it ends within this part of the rows. */
const FEW = 16;
const LEAST_KEPT = 128;

/** The places of the `count` least rows, in order. */
function smallest(length: number, count: number, compare: CompareAt): number[] {
  const room = Math.max(2 * count, LEAST_KEPT);
  let kept: number[] = [];
  let greatest = -1;
  for (let i = 0; i < length; i++) {
    if (greatest >= 0 && compare(i, greatest) > 0) continue;
    kept.push(i);
    if (kept.length < room) continue;
    kept = kept.sort(compare).slice(0, count);
    greatest = kept[count - 1] as number;
  }
  return kept.sort(compare).slice(0, count);
}

/** Numbers before texts before true and false; what is not there comes last. */
function rankOf(value: unknown): number {
  return typeof value === 'number' || typeof value === 'bigint'
    ? 0
    : typeof value === 'string'
      ? 1
      : typeof value === 'boolean'
        ? 2
        : 3;
}

const NOTHING = 3;

function compileCompare(rows: readonly Row[], keys: readonly SortKey[]): CompareAt {
  const columns = keys.map((key) => compileColumn(rows, key));
  const [first, second] = columns;
  if (first === undefined) return (a, b) => a - b;
  if (second === undefined) return (a, b) => first(a, b) || a - b;
  return (a, b) => {
    for (const column of columns) {
      const difference = column(a, b);
      if (difference !== 0) return difference;
    }
    return a - b;
  };
}

function compileColumn(rows: readonly Row[], { field, isDescending }: SortKey): CompareAt {
  const read = compileField(field);
  const found: unknown[] = new Array(rows.length);
  for (let i = 0; i < found.length; i++) found[i] = read(rows[i] as Row);
  const values = toMoments(found) as readonly (number | string)[];
  const sign = isDescending ? -1 : 1;
  const kind = typeof values[0];
  if ((kind === 'number' || kind === 'string') && values.every((value) => typeof value === kind))
    return (a, b) => {
      const left = values[a] as number | string;
      const right = values[b] as number | string;
      return left < right ? -sign : left > right ? sign : 0;
    };
  return (a, b) => compareMixed(values[a], values[b], sign);
}

function compareMixed(left: unknown, right: unknown, sign: number): number {
  const ranks = rankOf(left) - rankOf(right);
  if (rankOf(left) === NOTHING || rankOf(right) === NOTHING) return ranks;
  if (ranks !== 0) return ranks * sign;
  return (left as string) < (right as string) ? -sign : (left as string) > (right as string) ? sign : 0;
}

/** Dates of one zone are in the order of their texts; those of several are compared by the moments they mean. */
function toMoments(values: readonly unknown[]): readonly unknown[] {
  const first = values.find((value) => value !== undefined && value !== null);
  if (Number.isNaN(readDate(first))) return values;
  const isOneZone = values.every((value) => typeof value !== 'string' || value.endsWith('Z'));
  if (isOneZone) return values;
  return values.map((value) => {
    const moment = readDate(value);
    return Number.isNaN(moment) ? value : moment;
  });
}

const SMALL = 32;
const MOST_ROUNDS = 100;

/** Moves places so that those before `at` are all smaller than those from it on. Source: Hoare, Algorithm 65 (FIND), 1961. */
function partAt(places: Uint32Array, at: number, start: number, end: number, compare: CompareAt): void {
  let low = start;
  let high = end;
  let seed = 1;
  for (let round = 0; high - low > SMALL && at > low && at < high; round++) {
    if (round > MOST_ROUNDS) break;
    seed = (Math.imul(seed, 1_103_515_245) + 12_345) >>> 0;
    const pivot = places[low + (seed % (high - low))] as number;
    let i = low;
    let j = high - 1;
    while (i <= j) {
      while (compare(places[i] as number, pivot) < 0) i++;
      while (compare(places[j] as number, pivot) > 0) j--;
      if (i > j) break;
      const left = places[i] as number;
      places[i++] = places[j] as number;
      places[j--] = left;
    }
    if (at <= j) high = j + 1;
    else if (at >= i) low = i;
    else return;
  }
  if (at > low && at < high) places.subarray(low, high).sort(compare);
}
