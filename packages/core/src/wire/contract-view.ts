import { z } from 'zod';
import { besideFilesSchema } from '../definition/beside/service-text.js';

const placed = { line: z.int(), column: z.int() };

/** How a service keeps to its contract, each finding with its line in the service file. */
export const contractReportSchema = z.object({
  /** The contract's file beside the service file. */
  file: z.string(),
  calls: z.enum(['report', 'refuse', 'ignore']),
  cases: z.array(
    z.object({
      operation: z.string(),
      case: z.string(),
      outcome: z.enum(['holds', 'differs', 'not called']),
      findings: z.array(z.object({ at: z.string(), message: z.string(), rule: z.string(), ...placed })),
      ...placed,
    }),
  ),
  unknown: z.array(z.object({ operation: z.string(), on: z.string(), ...placed })),
  missing: z.array(z.object({ on: z.string(), at: z.string() })),
  incomplete: z.array(z.object({ operation: z.string(), code: z.string(), at: z.string(), ...placed })),
  /** Documents that the contract leads to and that cannot be used. */
  lost: z.array(z.object({ at: z.string(), reason: z.string() })),
});
export type ContractReport = z.output<typeof contractReportSchema>;

/** What of a contract is to be added to a service. */
export const wantedPartSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('operation'), on: z.string() }),
  z.object({ kind: z.literal('response'), operation: z.string(), code: z.string() }),
]);
export type WantedPart = z.output<typeof wantedPartSchema>;

/** A service file with what was added to it; nothing of it is saved yet. `added`: `readBerth / 404`. */
export const completedSchema = z.object({ file: z.string(), files: besideFilesSchema, added: z.array(z.string()) });
export type Completed = z.output<typeof completedSchema>;
