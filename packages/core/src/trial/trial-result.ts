import { z } from 'zod';

/** One side's message as it was on the wire; headers flat: name, value, name, value. */
export const trialAnswerSchema = z.object({
  status: z.int(),
  headers: z.array(z.string()),
  body: z.string().nullable(),
});
export type TrialAnswer = z.output<typeof trialAnswerSchema>;

export const trialRequestSchema = z.object({
  method: z.string(),
  target: z.string(),
  headers: z.array(z.string()),
  body: z.string().nullable(),
});
export type TrialRequest = z.output<typeof trialRequestSchema>;

/** One way in which the real answer differs from the case, or from the contract (`rule` says where it stands there). */
export const trialDifferenceSchema = z.object({
  at: z.string(),
  message: z.string(),
  rule: z.string().nullable(),
  /** Why it is accepted; null: it is not. */
  accepted: z.string().nullable(),
});
export type TrialDifference = z.output<typeof trialDifferenceSchema>;

/** One call of a trial. */
export const triedStepSchema = z.object({
  operation: z.string(),
  /** A case; `contract`: a call that the contract alone says is valid; `hostile`: one that must be refused. */
  kind: z.enum(['case', 'contract', 'hostile']),
  name: z.string(),
  /** `accepted`: it differs, in ways that the service file accepts. */
  outcome: z.enum(['holds', 'accepted', 'differs', 'not tried']),
  /** Why it was not tried. */
  reason: z.string().nullable(),
  differences: z.array(trialDifferenceSchema),
  request: trialRequestSchema.nullable(),
  /** What the case answers; null where the contract alone is asked. */
  wanted: trialAnswerSchema.nullable(),
  got: trialAnswerSchema.nullable(),
  tookMs: z.number(),
});
export type TriedStep = z.output<typeof triedStepSchema>;

export const USUAL_ENVIRONMENT = 'default';

/** A service tried against a real implementation. */
export const trialSchema = z.object({
  service: z.string(),
  against: z.string(),
  /** Where the real implementation stands: `staging`; runs of one environment are told apart from those of others. */
  environment: z.string(),
  startedAt: z.string(),
  steps: z.array(triedStepSchema),
});
export type Trial = z.output<typeof trialSchema>;
