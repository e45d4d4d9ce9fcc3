import { z } from 'zod';
import { strictKeys } from './strict-keys.js';

/** The row of a dataset that a call speaks of: the first whose fields are as `where` says. */
export const rowPickSchema = strictKeys('`row`', {
  of: z.string({ error: '`of` names a dataset' }),
  where: z
    .record(z.string(), z.json(), { error: '`where` maps fields to values' })
    .refine((where) => Object.keys(where).length > 0, { error: '`where` needs a field' }),
});
export type RowPick = z.output<typeof rowPickSchema>;
