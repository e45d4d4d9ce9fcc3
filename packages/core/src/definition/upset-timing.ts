import { z } from 'zod';
import { parseDuration } from './duration.js';
import { durationSchema, shareSchema } from './duration-schema.js';
import { hasNoMistakes, strictKeys } from './strict-keys.js';

const MOST_COUNT = 1_000_000;

const countSchema = (least: number, error: string) => z.int({ error }).min(least, { error }).max(MOST_COUNT, { error });

const duringSchema = strictKeys('`during`', {
  from: durationSchema.optional(),
  for: durationSchema,
  again: durationSchema.optional(),
}).refine(
  ({ from = '0ms', for: length, again }) =>
    again === undefined || (parseDuration(from) ?? 0) + (parseDuration(length) ?? 0) <= (parseDuration(again) ?? 0),
  {
    error: '`again` is how long one round takes: not shorter than `from` and `for` together',
    path: ['again'],
    when: hasNoMistakes,
  },
);

/** Which of the calls an upset is about it holds for; one of these, or none for all of them. */
export const TIMINGS = {
  share: shareSchema.optional(),
  first: countSchema(1, '`first` is a number of calls, from 1').optional(),
  every: countSchema(2, '`every` is a number of calls, from 2: each so-manieth').optional(),
  during: duringSchema.optional(),
};

export type DuringDefinition = z.output<typeof duringSchema>;
