import { z } from 'zod';
import { besideFilesSchema } from '../definition/beside/service-text.js';
import { serviceNameSchema } from '../definition/service-file.js';
import { DRAFT_LEVELS } from '../drafting/draft.js';

export const takeSummarySchema = z.object({
  name: z.string(),
  source: z.enum(['relay', 'service', 'proxy']),
  /** The real service; null at a proxy, which hears many. */
  upstream: z.string().nullable(),
  state: z.enum(['open', 'closed']),
  /** Where the relay or proxy listens while the take is open. */
  address: z.string().nullable(),
  exchanges: z.int(),
  startedAt: z.string(),
  endedAt: z.string().nullable(),
  trouble: z.string().nullable(),
  /** Where secrets were masked, and how often. */
  masked: z.array(z.object({ place: z.string(), count: z.int() })),
  /** What became of each host's calls at a proxy. */
  hosts: z.array(
    z.object({
      host: z.string(),
      heard: z.int(),
      untouched: z.int(),
      refused: z.int(),
      trouble: z.string().nullable(),
    }),
  ),
});
export type TakeSummary = z.output<typeof takeSummarySchema>;

export const takeStartSchema = z
  .strictObject({
    name: serviceNameSchema,
    /** The real service that a relay passes everything to. */
    from: z.url({ protocol: /^https?$/, error: '`from` is an http or https URL' }).optional(),
    /** A forward proxy in place of a relay: whom to hear; no host named: everyone. */
    proxy: z.strictObject({ hosts: z.array(z.string().min(1)).default([]) }).optional(),
    port: z.int().min(0).max(65535).default(0),
    masks: z.array(z.string()).default([]),
    rewrites: z.boolean().default(false),
    authority: z.string().nullable().default(null),
  })
  .refine(({ from, proxy }) => (from === undefined) !== (proxy === undefined), {
    error: 'a take is heard `from` one service or through a `proxy`: name one of them',
  })
  .refine(({ proxy, rewrites }) => proxy === undefined || !rewrites, {
    error: '`rewrites` belongs to `from`: behind a proxy nothing has to be led back',
    path: ['rewrites'],
  });
export type TakeStart = z.input<typeof takeStartSchema>;

export const exchangeSummarySchema = z.object({
  index: z.int(),
  at: z.string(),
  method: z.string(),
  /** `https://tide.harbour.test:4690` */
  origin: z.string(),
  /** Path and query. */
  url: z.string(),
  status: z.int(),
  contentType: z.string(),
  firstByteMs: z.number(),
  tookMs: z.number(),
  trouble: z.string().nullable(),
});
export type ExchangeSummary = z.output<typeof exchangeSummarySchema>;

export const exchangeDetailSchema = exchangeSummarySchema.extend({
  requestHeaders: z.array(z.string()),
  requestBody: z.string().nullable(),
  responseHeaders: z.array(z.string()),
  responseText: z.string().nullable(),
  responseBase64: z.string().nullable(),
});
export type ExchangeDetail = z.output<typeof exchangeDetailSchema>;

export const exchangeListSchema = z.object({
  exchanges: z.array(exchangeSummarySchema),
  /** What `after` gives the next page; null when this was the last. */
  next: z.int().nullable(),
});
export type ExchangeList = z.output<typeof exchangeListSchema>;

export const draftRequestSchema = z.object({
  /** Takes to be put together with the one named. */
  with: z.array(z.string()).default([]),
  service: serviceNameSchema.optional(),
  level: z.enum(DRAFT_LEVELS).default('alive'),
  origin: z.string().nullable().default(null),
  port: z.int().nullable().default(null),
  without: z.array(z.string()).default([]),
  only: z.array(z.string()).default([]),
  overrules: z.record(z.string(), z.string()).default({}),
  /** An OpenAPI document that names paths, parameters and operations. */
  contract: z.string().nullable().default(null),
});
export type DraftRequest = z.input<typeof draftRequestSchema>;

export const fidelitySchema = z.object({
  exchanges: z.int(),
  asHeard: z.int(),
  differences: z.array(
    z.object({
      index: z.int(),
      method: z.string(),
      path: z.string(),
      operation: z.string().nullable(),
      case: z.string().nullable(),
      at: z.string(),
      heard: z.string(),
      given: z.string(),
    }),
  ),
});

export const draftViewSchema = z.object({
  service: z.string(),
  text: z.string(),
  files: besideFilesSchema,
  operations: z.int(),
  cases: z.int(),
  level: z.enum(DRAFT_LEVELS).nullable(),
  fidelity: fidelitySchema.nullable(),
  decisions: z.array(
    z.object({
      id: z.string().optional(),
      of: z.string(),
      concluded: z.string(),
      evidence: z.string(),
      confidence: z.number().optional(),
    }),
  ),
  unusable: z.array(z.object({ at: z.string(), reason: z.string() })),
});
export type DraftView = z.output<typeof draftViewSchema>;
