import { z } from 'zod';
import { strictKeys } from './strict-keys.js';

/** How a connection may break before an answer: it stays silent, is closed in order, or is reset. */
export const BREAKS = ['silence', 'hangup', 'reset'] as const;

const AS = `a break is ${BREAKS.join(', ')}; others are not supported yet`;
const KEPT = '`kept` is no (nothing was done) or yes (it was done, and the caller did not hear of it)';
const asSchema = z.enum(BREAKS, { error: AS });

/** `kept`: whether what the call changes is kept though its caller hears nothing; usually it is. */
export const breakSchema = z.union(
  [
    asSchema,
    strictKeys('`break`', {
      as: asSchema,
      kept: z.union([z.boolean(), z.enum(['yes', 'no'])], { error: KEPT }).optional(),
    }),
  ],
  { error: AS },
);
export type BreakDefinition = z.output<typeof breakSchema>;
