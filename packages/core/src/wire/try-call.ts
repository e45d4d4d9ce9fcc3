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
  /** The name in the client certificate that is shown, issued by Upsetter's own authority; null: none, unless one is required. */
  certificate: z.string().min(1).max(64).nullable().default(null),
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
