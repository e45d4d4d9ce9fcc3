import { z } from 'zod';
import { answerSchema } from '../definition/answer.js';
import { besideFilesSchema } from '../definition/beside/service-text.js';
import { upsetSchema } from '../definition/upset.js';

/** An upset as it is now: from the file or switched on while running, in force or calm. */
export const upsetStateSchema = z.object({
  definition: upsetSchema,
  from: z.enum(['file', 'running']),
  inForce: z.boolean(),
});
export type UpsetState = z.output<typeof upsetStateSchema>;

export const serviceSummarySchema = z.object({
  name: z.string(),
  version: z.string().nullable(),
  title: z.string().nullable(),
  revision: z.int(),
  /** Where the mock listens; null when its listener could not be opened: `trouble` says why. */
  address: z.string().nullable(),
  trouble: z.string().nullable(),
  operations: z.int(),
  cases: z.int(),
  /** How many ways its cases differ from the contract it names; null: it names none, or that is still being found out. */
  contractFindings: z.int().nullable(),
  upsetsInForce: z.array(z.string()),
  callsLastMinute: z.int(),
  straysLastMinute: z.int(),
  savedAt: z.string(),
});
export type ServiceSummary = z.output<typeof serviceSummarySchema>;

export const caseViewSchema = z.object({
  case: z.string(),
  when: z.array(z.object({ place: z.string(), wanted: z.string() })),
  answer: answerSchema,
  /** The answer as it stands in the file (YAML). */
  answerText: z.string(),
  /** What it serves, such as `the rows of vessels`, where its answer does not stand in the file; null: it does. */
  added: z.string().nullable(),
  /** Why no call gets to it; null: one may. */
  unreachable: z.string().nullable(),
});
export type CaseView = z.output<typeof caseViewSchema>;

export const operationViewSchema = z.object({
  name: z.string(),
  on: z.string(),
  title: z.string().nullable(),
  cases: z.array(caseViewSchema),
});
export type OperationView = z.output<typeof operationViewSchema>;

export const serviceViewSchema = serviceSummarySchema.extend({
  file: z.string(),
  /** The files beside it, by name. */
  files: besideFilesSchema,
  operationList: z.array(operationViewSchema),
  /** Variables as they are; `environment` null: by the file itself. */
  variables: z.array(z.object({ name: z.string(), value: z.unknown(), environment: z.string().nullable() })),
  upsets: z.array(upsetStateSchema),
  /** Connections on which TLS could not be opened, the latest first; `times`: how many alike since `firstAt`. */
  refusedConnections: z.array(
    z.object({ at: z.string(), firstAt: z.string(), from: z.string().nullable(), reason: z.string(), times: z.int() }),
  ),
});
export type ServiceView = z.output<typeof serviceViewSchema>;

export const saveRequestSchema = z.object({
  file: z.string(),
  /** The files beside it; left out: those that are there stay. */
  files: besideFilesSchema.optional(),
  note: z.string().optional(),
  /** Merge the file, a newer draft, into the service that is there. */
  merge: z.boolean().optional(),
  /** State, rows, turns and counters of every lane begin anew. */
  reset: z.boolean().optional(),
});
export type SaveRequest = z.input<typeof saveRequestSchema>;

export const savedSchema = z.object({
  name: z.string(),
  revision: z.int(),
  address: z.string().nullable(),
  trouble: z.string().nullable(),
  created: z.boolean(),
  changed: z.boolean(),
  /** What is to be known of it: cases that no call gets to, paths that two operations take. */
  notes: z.array(z.object({ operation: z.string(), case: z.string().nullable(), message: z.string() })),
  /** Lanes that had changed the rows of a dataset which is another now, and keep theirs. */
  keptRows: z.array(z.object({ lane: z.string(), dataset: z.string() })),
  /** What merging came to; null when nothing was merged. */
  merged: z
    .object({
      added: z.array(z.string()),
      changed: z.array(z.string()),
      kept: z.array(z.string()),
      conflicts: z.array(z.string()),
      removed: z.array(z.string()).default([]),
    })
    .nullable(),
});
export type Saved = z.output<typeof savedSchema>;

export const revisionSchema = z.object({ revision: z.int(), savedAt: z.string(), note: z.string().nullable() });
export type Revision = z.output<typeof revisionSchema>;
