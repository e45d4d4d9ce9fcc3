import { z } from 'zod';
import { strictKeys } from './strict-keys.js';

/** The most rows one dataset holds in one lane: callers can make it grow, but not without end. */
export const MOST_ROWS = 200_000;

const KEY = '`key` is the field that tells rows apart, or the list of those that do so together';
const keyFieldSchema = z.string({ error: KEY }).min(1, { error: KEY });

const COUNT = `\`count\` is a whole number from 1 to ${MOST_ROWS}`;
/** Rows that are made up: so many, each with these fields. */
const makeSchema = strictKeys('`make`', {
  count: z.int({ error: COUNT }).min(1, { error: COUNT }).max(MOST_ROWS, { error: COUNT }),
  row: z.record(z.string(), z.json(), { error: '`row` maps fields to values, usually with expressions' }),
});
export type MadeRows = z.output<typeof makeSchema>;

/** A dataset: rows that answers read and change, told apart by the field `key`, or by several fields together. */
export const datasetSchema = strictKeys('a dataset', {
  key: z.union([keyFieldSchema, z.array(keyFieldSchema).min(1, { error: KEY })], { error: KEY }),
  rows: z
    .array(z.record(z.string(), z.json()), {
      error: '`rows` is a list of maps, or a file beside: ./vessels.csv, ./vessels.json, ./vessels.ndjson',
    })
    .optional(),
  /** How columns of a CSV file are read, where that is not to be inferred. */
  types: z
    .record(z.string(), z.enum(['text', 'number', 'boolean'], { error: 'a column is text, number or boolean' }))
    .optional(),
  make: makeSchema.optional(),
});
export type DatasetDefinition = z.output<typeof datasetSchema>;
