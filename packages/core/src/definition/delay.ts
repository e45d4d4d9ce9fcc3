import { z } from 'zod';
import { parseDuration } from './duration.js';
import { durationSchema } from './duration-schema.js';
import { hasNoMistakes, strictKeys } from './strict-keys.js';

const isInOrder = (low: string, high: string): boolean => (parseDuration(low) ?? 0) <= (parseDuration(high) ?? 0);

const evenSchema = strictKeys('a delay', { low: durationSchema, high: durationSchema }).refine(
  ({ low, high }) => isInOrder(low, high),
  { error: '`low` is not above `high`', path: ['high'], when: hasNoMistakes },
);

const latencySchema = strictKeys('a delay', { median: durationSchema, p95: durationSchema })
  .refine(({ median }) => (parseDuration(median) ?? 1) > 0, {
    error: '`median` is above 0',
    path: ['median'],
    when: hasNoMistakes,
  })
  .refine(({ median, p95 }) => isInOrder(median, p95), {
    error: '`p95` is not below `median`',
    path: ['p95'],
    when: hasNoMistakes,
  });

/** How long a call is delayed: a duration, even between `low` and `high`, or as services are slow: `median` and `p95`. */
export const delaySchema = z.union([durationSchema, evenSchema, latencySchema], {
  error: 'a delay is a duration such as 800ms, or { low, high }, or { median, p95 }',
});
export type DelayDefinition = z.output<typeof delaySchema>;
