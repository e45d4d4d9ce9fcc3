import { z } from 'zod';
import { sentCallbackSchema } from '../callback/sent-callback.js';
import { callFindingSchema } from '../contract/keeping/call-finding.js';
import { explanationSchema } from '../explain/explanation.js';

/** Who answered: a case, an upset in its place, the upstream, the contract by a refusal, or nobody (a stray, a known path with another method, a preflight, a broken request). */
export const answeredBySchema = z.enum(['case', 'upset', 'upstream', 'access', 'contract', 'nobody']);

/** One received call, as listed: what was asked, what answered. Times in milliseconds. */
export const callSummarySchema = z.object({
  id: z.string(),
  at: z.string(),
  service: z.string(),
  version: z.string().nullable(),
  revision: z.int(),
  operation: z.string().nullable(),
  case: z.string().nullable(),
  lane: z.string(),
  answeredBy: answeredBySchema,
  stray: z.boolean(),
  /** `in flight` until the last byte is sent; `broken` when the caller left before. */
  state: z.enum(['in flight', 'done', 'broken']),
  method: z.string(),
  url: z.string(),
  status: z.int().nullable(),
  upsets: z.array(z.string()),
  /** The mock's own time, without what upsets asked for. */
  ownMs: z.number(),
  delayAskedMs: z.number(),
  delayGivenMs: z.number(),
  totalMs: z.number(),
  /** Why nobody could answer rightly, when something went wrong: an expression that failed, a body over the limit. */
  trouble: z.string().nullable(),
  /** How many ways call and answer differ from the contract. */
  findings: z.int(),
  /** How many calls were made because of this one, and how many of them did not arrive. */
  callbacks: z.int(),
  callbacksFailed: z.int(),
});
export type CallSummary = z.output<typeof callSummarySchema>;

/** A body as kept: up to a limit, then its size and SHA-256 only. */
export const keptBodySchema = z.object({
  sizeBytes: z.int(),
  text: z.string().nullable(),
  base64: z.string().nullable(),
  sha256: z.string().nullable(),
});
export type KeptBody = z.output<typeof keptBodySchema>;

export const callDetailSchema = callSummarySchema.extend({
  findingList: z.array(callFindingSchema),
  callbackList: z.array(sentCallbackSchema),
  requestHeaders: z.array(z.string()),
  requestBody: keptBodySchema,
  responseHeaders: z.array(z.string()),
  responseBody: keptBodySchema,
});
export type CallDetail = z.output<typeof callDetailSchema>;

export const whySchema = z.object({ call: callSummarySchema, why: explanationSchema });
export type Why = z.output<typeof whySchema>;

export const callListSchema = z.object({ calls: z.array(callSummarySchema), next: z.string().nullable() });
export type CallList = z.output<typeof callListSchema>;

export const callQuerySchema = z.object({
  service: z.string().optional(),
  operation: z.string().optional(),
  lane: z.string().optional(),
  strays: z.stringbool().optional(),
  /** Only calls that differ from their contract. */
  findings: z.stringbool().optional(),
  /** Calls before this id: the `next` of the page before. */
  before: z.string().optional(),
  limit: z.coerce.number().int().min(1).max(1000).default(100),
});
export type CallQuery = z.output<typeof callQuerySchema>;
