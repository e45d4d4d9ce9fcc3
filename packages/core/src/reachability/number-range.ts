import type { Comparison } from '../definition/comparison.js';

/** The numbers (dates as milliseconds) that `above`, `below`, `from` and `to` leave. */
export interface NumberRange {
  readonly low: number;
  readonly isLowOpen: boolean;
  readonly high: number;
  readonly isHighOpen: boolean;
}

const SIDES = ['above', 'below', 'from', 'to'] as const;

/** Null: it asks for no range, or for one of numbers and dates. */
export function rangeOf(comparison: Comparison): NumberRange | null {
  const limits = SIDES.flatMap((side) => comparison[side] ?? []);
  const [first] = limits;
  if (first === undefined || limits.some((limit) => typeof limit !== typeof first)) return null;
  const read = (side: (typeof SIDES)[number], other: number): number => {
    const limit = comparison[side];
    return limit === undefined ? other : typeof limit === 'number' ? limit : Date.parse(limit);
  };
  const [above, from] = [read('above', Number.NEGATIVE_INFINITY), read('from', Number.NEGATIVE_INFINITY)];
  const [below, to] = [read('below', Number.POSITIVE_INFINITY), read('to', Number.POSITIVE_INFINITY)];
  return { low: Math.max(above, from), isLowOpen: above >= from, high: Math.min(below, to), isHighOpen: below <= to };
}

export function isWithinRange(inner: NumberRange, outer: NumberRange): boolean {
  const isLowIn = inner.low > outer.low || (inner.low === outer.low && (inner.isLowOpen || !outer.isLowOpen));
  const isHighIn = inner.high < outer.high || (inner.high === outer.high && (inner.isHighOpen || !outer.isHighOpen));
  return isLowIn && isHighIn;
}

export function isEmptyRange({ low, isLowOpen, high, isHighOpen }: NumberRange): boolean {
  return low > high || (low === high && (isLowOpen || isHighOpen));
}
