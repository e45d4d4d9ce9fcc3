import { z } from 'zod';

/** One way in which an operation of a contract is another than in the version before. */
export const contractChangeSchema = z.object({
  /** `GET /berths/{berthId}` */
  on: z.string(),
  what: z.enum(['added', 'removed', 'changed']),
  /** Where: `query state`, `body $.vessel.imo`, `200 $.berths[]`; empty: the operation itself. */
  at: z.string(),
  message: z.string(),
  /** Whether a caller of the version before can no longer rely on what it did. */
  breaks: z.boolean(),
});
export type ContractChange = z.output<typeof contractChangeSchema>;
