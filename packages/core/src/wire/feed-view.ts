import { z } from 'zod';
import { contractChangeSchema } from '../contract/comparing/contract-change.js';
import { serviceNameSchema } from '../definition/service-file.js';

/** Where a contract is fetched from. */
export const feedSourceSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('file'), path: z.string().min(1) }),
  z.object({
    kind: z.literal('git'),
    repository: z.string().min(1),
    branch: z.string().min(1).nullable().default(null),
    path: z.string().min(1),
  }),
  z.object({
    kind: z.literal('url'),
    url: z.url({ protocol: /^https?$/, error: 'a feed is fetched by http or https' }),
  }),
]);

const LEAST_EVERY_MS = 1_000;

export const feedStartSchema = z.object({
  name: serviceNameSchema,
  /** The service that follows; it is made by the first run where it is not there. */
  service: serviceNameSchema,
  source: feedSourceSchema,
  /** Null: by hand and by the hook alone. */
  everyMs: z.int().min(LEAST_EVERY_MS).nullable().default(null),
  /** Each version of the contract becomes a service beside those of the versions before: NAME@VERSION. */
  sideBySide: z.boolean().default(false),
});
export type FeedStart = z.input<typeof feedStartSchema>;

const mergedSchema = z.object({
  added: z.array(z.string()),
  changed: z.array(z.string()),
  kept: z.array(z.string()),
  conflicts: z.array(z.string()),
  removed: z.array(z.string()),
});

/** What one fetch came to. Fetches that found nothing new are not kept. */
export const feedRunSchema = z.object({
  at: z.string(),
  outcome: z.enum(['same', 'created', 'merged', 'failed']),
  version: z.string().nullable(),
  /** The service that was saved, and its revision. */
  service: z.string().nullable(),
  revision: z.int().nullable(),
  message: z.string().nullable(),
  changes: z.array(contractChangeSchema),
  merged: mergedSchema.nullable(),
  /** Documents that could not be used, and parts that cannot be drafted. */
  unusable: z.array(z.object({ at: z.string(), reason: z.string() })),
});
export type FeedRun = z.output<typeof feedRunSchema>;

export const feedSchema = z.object({
  name: z.string(),
  service: z.string(),
  source: feedSourceSchema,
  everyMs: z.int().nullable(),
  sideBySide: z.boolean(),
  /** The version that was fetched last; null: none yet. */
  version: z.string().nullable(),
  checkedAt: z.string().nullable(),
  /** Why the latest fetch failed; null: it did not. */
  trouble: z.string().nullable(),
  /** Newest first. */
  runs: z.array(feedRunSchema),
});
export type Feed = z.output<typeof feedSchema>;
