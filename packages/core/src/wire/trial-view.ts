import { z } from 'zod';
import { trialChangeSchema } from '../trial/trial-changes.js';
import { triedStepSchema, USUAL_ENVIRONMENT } from '../trial/trial-result.js';

const environmentSchema = z.string().regex(/^[a-z0-9]([a-z0-9-]{0,62}[a-z0-9])?$/, {
  error: 'an environment is a name of a-z, 0-9 and -, such as staging',
});

const MOST_CALLS_PER_SECOND = 1_000;
const USUAL_CALLS_PER_SECOND = 10;

/** How a trial is begun in the running service. */
export const trialStartSchema = z.object({
  against: z.url({ protocol: /^https?$/, error: '`against` is an http or https URL' }),
  environment: environmentSchema.default(USUAL_ENVIRONMENT),
  writes: z.boolean().default(false),
  hostile: z.boolean().default(false),
  /** Sent with each call; never kept. */
  headers: z.record(z.string(), z.string()).default({}),
  callsPerSecond: z.number().positive().max(MOST_CALLS_PER_SECOND).default(USUAL_CALLS_PER_SECOND),
});
export type TrialStart = z.input<typeof trialStartSchema>;

export const trialCountsSchema = z.object({
  holds: z.int(),
  accepted: z.int(),
  differs: z.int(),
  notTried: z.int(),
});
export type TrialCounts = z.output<typeof trialCountsSchema>;

/** One trial of a service; while it runs, its counts grow. */
export const trialSummarySchema = z.object({
  id: z.string(),
  service: z.string(),
  environment: z.string(),
  against: z.string(),
  state: z.enum(['running', 'done', 'stopped', 'failed']),
  trouble: z.string().nullable(),
  startedAt: z.string(),
  endedAt: z.string().nullable(),
  counts: trialCountsSchema,
  /** While it runs, how many steps there will be, once that is known. */
  planned: z.int().nullable(),
  /** What changed since the one before in the same environment; null: it is the first, or still runs. */
  changes: z.object({ began: z.int(), changed: z.int(), ended: z.int() }).nullable(),
});
export type TrialSummary = z.output<typeof trialSummarySchema>;

/** A trial with its steps, and what changed since the one before it in the same environment. */
export const trialDetailSchema = trialSummarySchema.extend({
  steps: z.array(triedStepSchema),
  /** Null: it is the first one there. */
  since: z.object({ id: z.string(), startedAt: z.string(), changes: z.array(trialChangeSchema) }).nullable(),
});
export type TrialDetail = z.output<typeof trialDetailSchema>;

/** A trial that was run elsewhere, to be kept. */
export const finishedTrialSchema = z.object({
  against: z.string(),
  environment: environmentSchema.default(USUAL_ENVIRONMENT),
  startedAt: z.iso.datetime(),
  steps: z.array(triedStepSchema),
});
export type FinishedTrial = z.input<typeof finishedTrialSchema>;

/** A difference of a case: what is adopted, or accepted. */
export const trialPlaceSchema = z.object({ operation: z.string(), case: z.string(), at: z.string() });
/** `case` null: of all cases of the operation. `in`: only in this environment. */
export const trialAcceptSchema = z.object({
  operation: z.string(),
  case: z.string().nullable(),
  at: z.string(),
  because: z.string().min(1, { error: 'say why it is accepted' }),
  in: environmentSchema.nullable().default(null),
});
