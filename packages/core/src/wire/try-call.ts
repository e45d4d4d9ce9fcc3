import { z } from 'zod';
import { explanationSchema } from '../explain/explanation.js';
import { callSummarySchema } from './call-record.js';

/** A call to be sent to a mock, as a caller would send it. */
export const tryRequestSchema = z.object({
  method: z.string().min(1),
  path: z.string().regex(/^\//, { error: 'a path starts with /' }),
  headers: z.record(z.string(), z.string()).default({}),
  body: z.string().nullable().default(null),
  lane: z.string().default('main'),
});
export type TryRequest = z.input<typeof tryRequestSchema>;

export const tryResultSchema = z.object({
  status: z.int(),
  headers: z.array(z.string()),
  body: z.string(),
  tookMs: z.number(),
  call: callSummarySchema.nullable(),
  why: explanationSchema.nullable(),
});
export type TryResult = z.output<typeof tryResultSchema>;
