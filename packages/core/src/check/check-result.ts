import { z } from 'zod';
import { explainedConditionSchema } from '../explain/explanation.js';

/** A call shown with a check that failed: one that came closest, and what differed. */
export const nearCallSchema = z.object({
  id: z.string(),
  at: z.string(),
  call: z.string(),
  operation: z.string().nullable(),
  stray: z.boolean(),
  differs: z.array(explainedConditionSchema),
});
export type NearCall = z.output<typeof nearCallSchema>;

export const checkResultSchema = z.object({
  check: z.string(),
  holds: z.boolean(),
  wanted: z.string(),
  found: z.string(),
  near: z.array(nearCallSchema),
  /** How many calls there are beside those shown. */
  more: z.number(),
  tookMs: z.number(),
});
export type CheckResult = z.output<typeof checkResultSchema>;
