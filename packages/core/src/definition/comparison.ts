import { z } from 'zod';
import { hasNoMistakes, strictKeys } from './strict-keys.js';

const boundary = z.union([z.number(), z.string()], { error: 'a number or an RFC 3339 date is expected' });

/** What must hold at a place; all that are given must hold for the same value. A bare value is read as `is`. */
export const comparisonSchema = z.preprocess(
  (value) => (isBareValue(value) ? { is: value } : value),
  strictKeys(
    'a comparison',
    {
      is: z.json().optional(),
      in: z.array(z.json()).min(1, { error: '`in` needs at least one value' }).optional(),
      like: z.string().optional(),
      regex: z.string().optional(),
      above: boundary.optional(),
      below: boundary.optional(),
      from: boundary.optional(),
      to: boundary.optional(),
      present: z.boolean().optional(),
    },
    ['isnt', 'has', 'starts', 'ends', 'size', 'fits', 'not', 'caseless', 'every'],
  ).refine((comparison) => Object.keys(comparison).length > 0, {
    error: 'a comparison needs at least one test',
    when: hasNoMistakes,
  }),
);
export type Comparison = z.output<typeof comparisonSchema>;

function isBareValue(value: unknown): boolean {
  return value === null || typeof value !== 'object' || Array.isArray(value);
}
