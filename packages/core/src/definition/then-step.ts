import { z } from 'zod';
import { callbackSchema } from './callback.js';
import { hasNoMistakes, strictKeys } from './strict-keys.js';

const valuesSchema = z.record(z.string(), z.json());
const datasetName = (key: string) => z.string({ error: `\`${key}\` names a dataset` });
/** A row, or one expression that gives it. */
const rowSchema = z.union([z.record(z.string(), z.json()), z.string()], { error: 'a row is a map, or one expression' });
const whereSchema = valuesSchema.refine((where) => Object.keys(where).length > 0, { error: '`where` needs a field' });

/** Several rows, or one expression that gives the list of them. */
const rowsSchema = z.union([z.array(z.record(z.string(), z.json())), z.string()], {
  error: '`rows` is a list of maps, or one expression',
});

export const insertSchema = strictKeys('`insert`', {
  into: datasetName('into'),
  row: rowSchema.optional(),
  rows: rowsSchema.optional(),
}).refine(({ row, rows }) => (row === undefined) !== (rows === undefined), {
  error: '`insert` has either `row` or `rows`',
  when: hasNoMistakes,
});
export const changeSchema = strictKeys('`change`', { of: datasetName('of'), where: whereSchema, to: rowSchema });
export const replaceSchema = strictKeys('`replace`', { of: datasetName('of'), where: whereSchema, row: rowSchema });
export const removeSchema = strictKeys('`remove`', { of: datasetName('of'), where: whereSchema });

const STEPS = ['set', 'insert', 'change', 'replace', 'remove', 'callback', 'log'] as const;

/** One step of `then`: state that is set, rows that are inserted, changed, replaced, removed, a call that is made afterwards, or a line on the call. */
export const thenStepSchema = strictKeys('a step of `then`', {
  set: valuesSchema.optional(),
  insert: insertSchema.optional(),
  change: changeSchema.optional(),
  replace: replaceSchema.optional(),
  remove: removeSchema.optional(),
  callback: callbackSchema.optional(),
  log: z.string({ error: '`log` is a text' }).optional(),
}).refine((step) => STEPS.filter((name) => step[name] !== undefined).length === 1, {
  error: `a step of \`then\` does one thing: ${STEPS.join(', ')}`,
  when: hasNoMistakes,
});
export type ThenStep = z.output<typeof thenStepSchema>;
