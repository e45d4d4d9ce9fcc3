import { z } from 'zod';
import { isReference } from './beside/service-text.js';
import { strictKeys } from './strict-keys.js';

const FILE = 'a contract is a file beside the service file, such as ./berth-desk.openapi.yaml';
const fileSchema = z.string({ error: FILE }).refine(isReference, { error: FILE });

/** The contract a service follows: its file, or the file with what becomes of calls that are not as it says (usually they are reported). */
export const contractKeySchema = z.union([
  fileSchema,
  strictKeys('`contract`', {
    file: fileSchema,
    calls: z.enum(['report', 'refuse', 'ignore'], { error: '`calls` is report, refuse or ignore' }).optional(),
  }),
]);
export type ContractKey = z.output<typeof contractKeySchema>;

/** The file that a `contract` key names, of a definition that may still be anything. */
export function contractFileOf(key: unknown): string | null {
  const file = key !== null && typeof key === 'object' ? (key as Readonly<Record<string, unknown>>)['file'] : key;
  return isReference(file) ? file : null;
}
