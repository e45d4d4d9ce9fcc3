import { z } from 'zod';

export const explainedConditionSchema = z.object({
  place: z.string(),
  wanted: z.string(),
  found: z.string(),
  held: z.boolean(),
  note: z.string().optional(),
  /** How far in it stands, in the groups `any` and `none`; left out: not at all. */
  depth: z.int().optional(),
});

export type ExplainedCondition = z.output<typeof explainedConditionSchema>;

export const explainedCaseSchema = z.object({
  case: z.string(),
  /**
   * `answered`; `would answer`: something else did in its place; `failed`: a condition did not hold; `not reached`: an earlier
   * case answered first.
   */
  outcome: z.enum(['answered', 'would answer', 'failed', 'not reached']),
  conditions: z.array(explainedConditionSchema),
});
export type ExplainedCase = z.output<typeof explainedCaseSchema>;

export const explainedOperationSchema = z.object({
  operation: z.string(),
  on: z.string(),
  /** Whether method and path lead here. When not, `address` says what differs. */
  reached: z.boolean(),
  address: z.array(explainedConditionSchema),
  cases: z.array(explainedCaseSchema),
});
export type ExplainedOperation = z.output<typeof explainedOperationSchema>;

/** Why a call was answered as it was: the ladder of the operation it led to, or the operations that came closest. */
export const explanationSchema = z.object({
  summary: z.string(),
  ladder: z.array(explainedOperationSchema),
  /** Lines that the case left on the call (`log` under `then`); left out: none. */
  notes: z.array(z.string()).optional(),
});
export type Explanation = z.output<typeof explanationSchema>;
