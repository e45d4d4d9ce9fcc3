import { z } from 'zod';
import { parseShift } from '../definition/duration.js';

/** A caller's private world, over all services. */
export const laneViewSchema = z.object({
  name: z.string(),
  calls: z.int(),
  /** Real time; null: it was not called since it was made or reset. */
  lastCallAt: z.string().nullable(),
  resetAt: z.string().nullable(),
  clock: z.object({ now: z.string(), isFrozen: z.boolean(), aheadMs: z.number() }),
  /** Services that it has called, with what is another there than at the start. */
  services: z.array(
    z.object({
      service: z.string(),
      calls: z.int(),
      state: z.record(z.string(), z.unknown()),
      /** How many rows a dataset has now. */
      rows: z.record(z.string(), z.int()),
      counters: z.record(z.string(), z.number()),
    }),
  ),
});
export type LaneView = z.output<typeof laneViewSchema>;

const FREEZE = '`freeze` is true (where it is now) or an RFC 3339 date';
const ADVANCE = '`advance` is a duration such as 90m, or -1d back';

/** What is done to a lane's clock; `release`, `freeze`, `advance` in this order. */
export const clockChangeSchema = z
  .object({
    freeze: z
      .union([z.literal(true), z.string().refine((text) => !Number.isNaN(Date.parse(text)), { error: FREEZE })], {
        error: FREEZE,
      })
      .optional(),
    advance: z.string({ error: ADVANCE }).optional(),
    release: z.boolean().optional(),
  })
  .transform(({ advance, ...others }, context) => {
    if (advance === undefined) return others as ClockChange;
    const ms = parseShift(advance);
    if (ms !== null) return { ...others, advanceMs: ms } as ClockChange;
    context.addIssue({ code: 'custom', path: ['advance'], message: ADVANCE });
    return z.NEVER;
  });

export interface ClockChange {
  readonly freeze?: true | string;
  readonly advanceMs?: number;
  readonly release?: boolean;
}
