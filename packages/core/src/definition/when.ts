import { z } from 'zod';
import { type Comparison, comparisonSchema } from './comparison.js';

/** Conditions: place -> comparison; all hold. Under `any` one of several such maps holds, under `none` none of them. */
export type When = { readonly [place: string]: Comparison | readonly When[] };

/** The keys of a `when` under which whole lists of conditions stand. */
export const WHEN_GROUPS = ['any', 'none'];

const branchesSchema = z
  .array(
    z.lazy(() => whenSchema),
    { error: 'a list of maps is expected, such as [{ query port: skerry }, { header accept: { has: xml } }]' },
  )
  .min(1, { error: 'at least one map of conditions is expected' });

/** The places are read when the file is compiled. */
export const whenSchema: z.ZodType<When> = z
  .record(z.string(), z.unknown(), { error: '`when` maps places to comparisons' })
  .transform((map, context) => {
    const read: Record<string, Comparison | readonly When[]> = {};
    for (const [key, value] of Object.entries(map)) {
      const parsed = WHEN_GROUPS.includes(key) ? branchesSchema.safeParse(value) : comparisonSchema.safeParse(value);
      if (parsed.success) read[key] = parsed.data;
      else
        for (const issue of parsed.error.issues)
          context.issues.push({ ...issue, path: [key, ...issue.path], input: value } as never);
    }
    return read;
  });

/** The conditions of a `when` itself, without those in its groups. */
export function placesOf(when: When | undefined): (readonly [place: string, comparison: Comparison])[] {
  return Object.entries(when ?? {}).flatMap(([place, own]) => (isBranches(own) ? [] : [[place, own] as const]));
}

export function isBranches(value: Comparison | readonly When[]): value is readonly When[] {
  return Array.isArray(value);
}
