import { z } from 'zod';
import { answerSchema } from './answer.js';
import { breakSchema } from './break.js';
import { delaySchema } from './delay.js';
import { shareSchema } from './duration-schema.js';
import { hasNoMistakes, strictKeys } from './strict-keys.js';
import { whenSchema } from './when.js';

const NOT_YET = ['pace', 'crowd', 'quota', 'first', 'every', 'during'];

/** One injected trouble. `calm: true` keeps it in the file, switched off. */
export const upsetSchema = strictKeys(
  'an upset',
  {
    upset: z.string({ error: 'an upset needs a name' }).min(1, { error: 'an upset needs a name' }),
    of: z.array(z.string(), { error: '`of` is a list of operations' }).min(1).optional(),
    when: whenSchema.optional(),
    share: shareSchema.optional(),
    delay: delaySchema.optional(),
    answer: answerSchema.optional(),
    break: breakSchema.optional(),
    calm: z.boolean().optional(),
  },
  NOT_YET,
).refine(({ delay, answer, break: broken }) => [delay, answer, broken].some((own) => own !== undefined), {
  error: 'an upset does something: give it a `delay`, an `answer` or a `break`',
  when: hasNoMistakes,
});
export type UpsetDefinition = z.output<typeof upsetSchema>;
