import { z } from 'zod';
import { durationSchema } from './duration-schema.js';
import { parseRate } from './rate.js';
import { strictKeys } from './strict-keys.js';

const MOST_PIECES = 10_000;

const RATE = 'a pace is a rate such as 500B/s, 20kB/s or 1.5MB/s, or { pieces, gap }';
const PIECES = `\`pieces\` is a number from 2 to ${MOST_PIECES}`;

/** How slowly the body of an answer comes: by a rate, or in so many pieces with a gap between them. */
export const paceSchema = z.union(
  [
    z.string({ error: RATE }).refine((text) => parseRate(text) !== null, { error: RATE }),
    strictKeys('a pace', {
      pieces: z.int({ error: PIECES }).min(2, { error: PIECES }).max(MOST_PIECES, { error: PIECES }),
      gap: durationSchema,
    }),
  ],
  { error: RATE },
);
export type PaceDefinition = z.output<typeof paceSchema>;
