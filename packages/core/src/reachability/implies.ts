import type { Comparison } from '../definition/comparison.js';
import { isBranches } from '../definition/when.js';
import { isEqual } from '../expression/value.js';
import type { AskedCondition } from './asked-condition.js';
import { isWithinRange, rangeOf } from './number-range.js';
import { impliesByParts } from './text-parts.js';

const LIMITS = ['above', 'below', 'from', 'to'];

/**
 * Whether each call for which `a` holds is one for which `b` holds, both of the same place: by equality, lists, ranges,
 * presence, and what texts begin with, end with and contain; expressions and schemas by their words alone. False where it cannot be told.
 */
export function implies(a: AskedCondition, b: AskedCondition): boolean {
  if (isEqual(a.said, b.said)) return true;
  if (isBranches(a.said) || isBranches(b.said)) return false;
  const [own, other] = [a.said, b.said];
  const { comparison: tests } = b.compiled;
  if (other.present === false) return own.present === false;
  if (own.present === false) return tests.forbids !== null && !tests.wantsPresence;
  if (isOnlyPresence(other)) return a.compiled.comparison.wantsPresence;
  if (a.compiled.needsFrame || b.compiled.needsFrame) return false;
  const values = literalsOf(own, a, other);
  if (values !== null) return values.every((value) => fitsAll(value, b));
  const range = rangeOf(own);
  const wanted = Object.keys(other).every((key) => LIMITS.includes(key)) ? rangeOf(other) : null;
  if (range !== null && wanted !== null) return isWithinRange(range, wanted);
  return impliesByParts(own, other);
}

function isOnlyPresence(comparison: Comparison): boolean {
  return comparison.present === true && Object.keys(comparison).length === 1;
}

/** The values that equality leaves; null: it asks for none, or they cannot be written down. */
export function literalsOf(
  { is, in: list, caseless }: Comparison,
  { compiled }: AskedCondition,
  other: Comparison,
): readonly unknown[] | null {
  const values = is !== undefined ? [is] : (list ?? null);
  if (values === null || caseless === true) return null;
  if (compiled.place.domain === 'json') return values;
  // At a text place, a number stands for every text that reads so: only numbers may be asked of it.
  const isNumeric = [other.is, ...(other.in ?? [])].every((value) => value === undefined || typeof value === 'number');
  const asksNumbers = isNumeric && Object.keys(other).every((key) => ['is', 'in', ...LIMITS].includes(key));
  if (values.some((value) => typeof value === 'number') && !asksNumbers) return null;
  return values.map(String);
}

/** Where several values may stand, the others are not known: only what one of them is enough for can be told. */
function fitsAll(value: unknown, { compiled: { comparison, place } }: AskedCondition): boolean {
  const { holds, forbids, every } = comparison;
  if (place.isMany && (forbids !== null || every !== null)) return false;
  return (
    (holds === null || holds(value, null)) &&
    (forbids === null || !forbids(value, null)) &&
    (every === null || every(value, null))
  );
}
