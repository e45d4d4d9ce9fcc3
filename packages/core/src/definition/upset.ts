import { z } from 'zod';
import { answerSchema } from './answer.js';
import { breakSchema } from './break.js';
import { delaySchema } from './delay.js';
import { paceSchema } from './pace.js';
import { hasNoMistakes, strictKeys } from './strict-keys.js';
import { TIMINGS } from './upset-timing.js';
import { whenSchema } from './when.js';

const NOT_YET = ['crowd', 'quota'];
const TIMING_KEYS = Object.keys(TIMINGS) as (keyof typeof TIMINGS)[];

/** One injected trouble. `calm: true` keeps it in the file, switched off. */
export const upsetSchema = strictKeys(
  'an upset',
  {
    upset: z.string({ error: 'an upset needs a name' }).min(1, { error: 'an upset needs a name' }),
    of: z.array(z.string(), { error: '`of` is a list of operations' }).min(1).optional(),
    when: whenSchema.optional(),
    ...TIMINGS,
    delay: delaySchema.optional(),
    pace: paceSchema.optional(),
    answer: answerSchema.optional(),
    break: breakSchema.optional(),
    calm: z.boolean().optional(),
  },
  NOT_YET,
)
  .refine(({ delay, pace, answer, break: broken }) => [delay, pace, answer, broken].some((own) => own !== undefined), {
    error: 'an upset does something: give it a `delay`, a `pace`, an `answer` or a `break`',
    when: hasNoMistakes,
  })
  .refine((upset) => TIMING_KEYS.filter((key) => upset[key] !== undefined).length <= 1, {
    error: `one of ${TIMING_KEYS.map((key) => `\`${key}\``).join(', ')} says which calls are upset: leave the others out`,
    when: hasNoMistakes,
  });
export type UpsetDefinition = z.output<typeof upsetSchema>;
