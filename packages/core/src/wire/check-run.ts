import { z } from 'zod';
import { checkResultSchema } from '../check/check-result.js';

export const checkRequestSchema = z.object({
  file: z.string(),
  lane: z.string().default('main'),
  /** Only calls received since: an RFC 3339 time, or a duration back from now. Left out: since the process began. */
  since: z.string().optional(),
  withinMs: z.number().min(0).max(600_000).default(0),
});
export type CheckRequest = z.input<typeof checkRequestSchema>;

export const checkRunSchema = z.object({ holds: z.boolean(), results: z.array(checkResultSchema) });
export type CheckRun = z.output<typeof checkRunSchema>;
