import { drawAt, hashText } from '../state/draw.js';
import type { FlatSchema } from './flat-schema.js';
import { byName, memberOf } from './member-of.js';

/** A number that fits its limits, by its name where nothing else is said. */
export function generateNumber({ limits, types, format }: FlatSchema, place: string): number {
  const isInteger =
    types?.has('number') !== true || limits.multipleOf === undefined || Number.isInteger(limits.multipleOf);
  const member = memberOf(place);
  const usual = usualOf(member);
  const step = limits.multipleOf ?? (types?.has('number') === true && isMoney(member) ? 0.01 : 1);
  const low = Math.max(limits.minimum ?? Number.NEGATIVE_INFINITY, nextAbove(limits.above, step));
  const high = Math.min(limits.maximum ?? Number.POSITIVE_INFINITY, nextBelow(limits.below, step));
  const from = Number.isFinite(low) ? low : Math.min(usual[0], high);
  const to = Number.isFinite(high) ? high : Math.max(usual[1], from + 99 * step);
  const first = Math.ceil(round(from / step));
  const last = Math.floor(round(to / step));
  if (last < first)
    return between(
      Math.max(limits.minimum ?? Number.NEGATIVE_INFINITY, limits.above ?? Number.NEGATIVE_INFINITY),
      Math.min(limits.maximum ?? Number.POSITIVE_INFINITY, limits.below ?? Number.POSITIVE_INFINITY),
      isInteger && types?.has('number') !== true && format !== 'float',
    );
  const drawn = first + (drawAt(hashText(place), 0) % Math.min(last - first + 1, 2 ** 31));
  return round(drawn * step);
}

/** What numbers of such names usually are. */
const USUAL: readonly (readonly [RegExp, readonly [number, number]])[] = [
  [/^(page|offset)$/i, [1, 1]],
  [/year/i, [2024, 2026]],
  [/lat(itude)?$/i, [50, 60]],
  [/l(on|ng|ongitude)$/i, [-10, 2]],
  [/percent|rate|ratio/i, [1, 100]],
  [/count|total|quantity|amount_of|size|number_of/i, [1, 20]],
  [/age$/i, [18, 80]],
  [/(id|no|number)$/i, [1, 1000]],
];

const usualOf = byName((name) => USUAL.find(([words]) => words.test(name))?.[1] ?? ([1, 100] as const));

function isMoney(member: string): boolean {
  return /price|amount|cost|total|fee|balance|charge/i.test(member);
}

function nextAbove(limit: number | undefined, step: number): number {
  return limit === undefined ? Number.NEGATIVE_INFINITY : round((Math.floor(round(limit / step)) + 1) * step);
}

function nextBelow(limit: number | undefined, step: number): number {
  return limit === undefined ? Number.POSITIVE_INFINITY : round((Math.ceil(round(limit / step)) - 1) * step);
}

/** No multiple of the step lies between: what is in the middle, then. */
function between(low: number, high: number, isWhole: boolean): number {
  if (!Number.isFinite(low) || !Number.isFinite(high)) return Number.isFinite(low) ? low : high;
  return isWhole ? Math.ceil(low) : (low + high) / 2;
}

/** Without the noise of binary fractions. */
function round(value: number): number {
  return Number.isInteger(value) ? value : Number(value.toPrecision(15));
}
