import type { Comparison } from '../../definition/comparison.js';
import { readDate, readNumber } from './read-value.js';
import { type Domain, type Refusal, refuse, type ValueTest } from './value-test.js';

const SIDES: readonly (readonly ['above' | 'below' | 'from' | 'to', (difference: number) => boolean])[] = [
  ['above', (d) => d > 0],
  ['below', (d) => d < 0],
  ['from', (d) => d >= 0],
  ['to', (d) => d <= 0],
];

/** `above` and `below`, `from` and `to`: by numbers, or by dates. */
export function compileBoundaries(
  comparison: Comparison,
  domain: Domain,
): { readonly tests: readonly ValueTest[] } | Refusal {
  const tests: ValueTest[] = [];
  for (const [name, accepts] of SIDES) {
    const limit = comparison[name];
    if (limit === undefined) continue;
    const read = typeof limit === 'number' ? (value: unknown) => readNumber(value, domain) : readDate;
    const limitValue = typeof limit === 'number' ? limit : readDate(limit);
    if (Number.isNaN(limitValue))
      return refuse(`\`${name}\` needs a number or an RFC 3339 date, not ${JSON.stringify(limit)}`);
    tests.push((value) => accepts(read(value) - limitValue));
  }
  return { tests };
}
