import { z } from 'zod';

/** One way in which a call, or the answer it got, is not as the contract says. */
export const callFindingSchema = z.object({
  in: z.enum(['call', 'answer']),
  /** Where: `query state`, `header authorization`, `json $.vessel.imo`. */
  at: z.string(),
  message: z.string(),
  /** The rule, by its place in the contract. */
  rule: z.string(),
  /** The status it is refused with where calls are refused; null: it is only told. */
  refusal: z.int().nullable(),
});
export type CallFinding = z.output<typeof callFindingSchema>;
