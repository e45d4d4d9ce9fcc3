import { readDate } from '../matching/comparing/read-value.js';
import { drawAt } from '../state/draw.js';
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
 * sorted, so that a page costs little more than one pass over the rows.
 */
export function sortSlice(rows: readonly Row[], keys: readonly SortKey[], from: number, to: number): Row[] {
  const end = Math.min(to, rows.length);
  if (from >= end) return [];
  const compare = compileCompare(rows, keys);
  const near = rows.length > FEW ? findNear(rows.length, from, end, compare) : null;
  const { places, before } = near ?? { places: rows.map((_, i) => i), before: 0 };
  return places
    .sort(compare)
    .slice(from - before, end - before)
    .map((place) => rows[place] as Row);
}

/** So many rows are sorted as a whole. */
const FEW = 4_000;
/** Ranks near the ends of a list are told well by few rows, those in the middle by more. */
const SMALL_SAMPLE = 256;
const SAMPLE = 2_048;
const NEAR_END = 1 / 16;
/** How far off a bound is set, in standard deviations of a rank in the sample: hardly ever is it set too near. */
const MARGIN = 4;

/**
 * Places whose rows are, in no order, those of the part and some of its neighbours; `before`: how many come before them
 * all. Between two rows of a sorted sample which, by their ranks, stand before and after the part; null where they turn out not to.
 * Source: Floyd and Rivest, Expected time bounds for selection, 1975.
 */
function findNear(
  count: number,
  from: number,
  end: number,
  compare: CompareAt,
): { readonly places: number[]; readonly before: number } | null {
  const isNearEnd = end < count * NEAR_END || from > count * (1 - NEAR_END);
  const sample = drawPlaces(count, isNearEnd ? SMALL_SAMPLE : SAMPLE).sort(compare);
  const low = sample[Math.floor(rankIn(sample.length, from / count, -MARGIN))] ?? null;
  const high = sample[Math.ceil(rankIn(sample.length, end / count, MARGIN))] ?? null;
  const places: number[] = [];
  let before = 0;
  for (let i = 0; i < count; i++) {
    if (low !== null && compare(i, low) < 0) before++;
    else if (high === null || compare(i, high) <= 0) places.push(i);
  }
  return from >= before && end <= before + places.length ? { places, before } : null;
}

function rankIn(size: number, share: number, deviations: number): number {
  return share * size + deviations * (Math.sqrt(size * share * (1 - share)) + 1);
}

/** Places at random, the same ones every time. */
function drawPlaces(count: number, size: number): number[] {
  return Array.from({ length: size }, (_, i) => drawAt(count, i) % count);
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
