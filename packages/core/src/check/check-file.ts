import { z } from 'zod';
import { durationSchema } from '../definition/duration-schema.js';
import { hasNoMistakes, strictKeys } from '../definition/strict-keys.js';
import { whenSchema } from '../definition/when.js';

const COUNT = 'a count is a whole number from 0';
const count = z.int({ error: COUNT }).min(0, { error: COUNT });

/** How many: exactly, or at least and at most. */
export const timesSchema = z.union(
  [
    count,
    strictKeys('a count', { least: count.optional(), most: count.optional() }).refine(
      (times) => times.least !== undefined || times.most !== undefined,
      {
        error: '`least`, `most` or both are expected',
      },
    ),
  ],
  { error: 'a count is a whole number from 0, or { least: 1, most: 3 }' },
);
export type Times = z.output<typeof timesSchema>;

export const checkSchema = strictKeys(
  'a check',
  {
    check: z.string({ error: 'a check needs a name' }).min(1, { error: 'a check needs a name' }),
    of: z.string({ error: '`of` is SERVICE/OPERATION' }).optional(),
    lane: z.string().optional(),
    where: whenSchema.optional(),
    times: timesSchema.optional(),
    order: z
      .array(z.string(), { error: '`order` is a list of SERVICE/OPERATION' })
      .min(2, { error: '`order` needs two operations or more' })
      .optional(),
    strict: z.boolean().optional(),
    strays: timesSchema.optional(),
    within: durationSchema.optional(),
  },
  ['gaps', 'took', 'findings'],
).superRefine((check, context) => {
  if (!hasNoMistakes(context)) return;
  const kinds = (['times', 'order', 'strays'] as const).filter((kind) => check[kind] !== undefined);
  if (kinds.length !== 1)
    context.addIssue({ code: 'custom', message: 'a check has one of `times`, `order` and `strays`' });
  if (check.times !== undefined && check.of === undefined)
    context.addIssue({ code: 'custom', message: '`times` needs `of`: which calls are counted' });
  if (check.order !== undefined && check.of !== undefined)
    context.addIssue({ code: 'custom', path: ['of'], message: '`order` names its operations itself; leave `of` out' });
  if (check.where !== undefined && check.times === undefined)
    context.addIssue({ code: 'custom', path: ['where'], message: '`where` belongs to `times`' });
  if (check.strict !== undefined && check.order === undefined)
    context.addIssue({ code: 'custom', path: ['strict'], message: '`strict` belongs to `order`' });
});
export type CheckDefinition = z.output<typeof checkSchema>;

/** A checks file: statements about the calls received. */
export const checkFileSchema = strictKeys('a checks file', {
  checks: z.array(checkSchema, { error: '`checks` is a list' }).min(1, { error: 'there is no check in it' }),
});
