import { z } from 'zod';
import { answerSchema } from './answer.js';
import { strictKeys } from './strict-keys.js';
import { wordSchema } from './word-schema.js';

/** What callers may do with the rows of a resource. */
export const RESOURCE_ACTIONS = ['list', 'read', 'create', 'replace', 'merge', 'remove'] as const;
export type ResourceAction = (typeof RESOURCE_ACTIONS)[number];

/** What such a call comes to: each has an answer of its own. */
export const RESOURCE_OUTCOMES = [
  ...(['listed', 'found', 'created', 'replaced', 'merged', 'removed'] as const),
  ...(['missing', 'invalid', 'malformed', 'taken', 'stale'] as const),
];
export type ResourceOutcome = (typeof RESOURCE_OUTCOMES)[number];

/** Comparisons that a list can be filtered by, in our words. */
export const FILTER_WORDS = [
  ...(['is', 'isnt', 'in', 'like', 'has', 'starts', 'ends'] as const),
  ...(['above', 'below', 'from', 'to', 'present'] as const),
];
export type FilterWord = (typeof FILTER_WORDS)[number];

const PARAMETER = 'the name of a query parameter is expected, or false: there is none';
const parameterSchema = z
  .union([z.string().min(1, { error: PARAMETER }), z.literal(false)], { error: PARAMETER })
  .optional();

const FILTER = '`filter` holds {field}, such as "filter[{field}]"';
const COMPARE = '`compare` holds {field} and {how}, such as "{field}.{how}" or "{field}[{how}]"';
const querySchema = strictKeys('`query`', {
  filter: z
    .string({ error: FILTER })
    .refine((text) => text.includes('{field}'), { error: FILTER })
    .optional(),
  compare: z
    .string({ error: COMPARE })
    .refine((text) => text.includes('{field}') && text.includes('{how}'), { error: COMPARE })
    .optional(),
  words: z
    .partialRecord(z.enum(FILTER_WORDS), z.string().min(1), {
      error: `\`words\` maps ${FILTER_WORDS.join(', ')} to the words of this API, such as { above: gt }`,
    })
    .optional(),
  search: parameterSchema,
  sort: parameterSchema,
  order: parameterSchema,
  page: parameterSchema,
  size: parameterSchema,
  offset: parameterSchema,
  limit: parameterSchema,
  fields: parameterSchema,
  with: parameterSchema,
});
export type ResourceQuery = z.output<typeof querySchema>;

const SIZE = '`page` is { size: 20, most: 100 }: rows that come unasked, and the most that can be asked for';
const pageSchema = strictKeys('`page`', {
  size: z.int({ error: SIZE }).min(1, { error: SIZE }).optional(),
  most: z.int({ error: SIZE }).min(1, { error: SIZE }).optional(),
  first: z.union([z.literal(0), z.literal(1)], { error: '`first` is the number of the first page: 1 or 0' }).optional(),
});

const NEW = '`new` is number, uuid, given, or { pattern: "VS-\\\\d{4}" }';
const newKeySchema = z.union(
  [z.enum(['number', 'uuid', 'given']), strictKeys('`new`', { pattern: z.string({ error: NEW }) })],
  { error: NEW },
);
export type NewKey = z.output<typeof newKeySchema>;

/** Related rows of another dataset: `where` says which of its fields are as which of ours. */
const relationSchema = strictKeys('a relation', {
  of: z.string({ error: '`of` names a dataset' }),
  where: z
    .record(z.string(), z.string(), { error: '`where` maps fields of the other dataset to fields of this one' })
    .refine((where) => Object.keys(where).length > 0, { error: '`where` needs a field' }),
  many: z.boolean({ error: '`many` is true (a list) or false (one row)' }).optional(),
  always: z.boolean({ error: '`always` is true or false' }).optional(),
});
export type RelationDefinition = z.output<typeof relationSchema>;

const AT = '`at` is a path such as /vessels, or a list of them';
const pathSchema = z.string({ error: AT }).startsWith('/', { error: AT });
const ALLOW = `\`allow\` lists ${RESOURCE_ACTIONS.join(', ')}`;
const valuesSchema = z.record(z.string(), z.json(), { error: 'fields with their values are expected' });

/** A dataset that callers list, read and change by the usual methods of HTTP. */
export const resourceSchema = strictKeys('a resource', {
  at: z.union([pathSchema, z.array(pathSchema).min(1, { error: AT })], { error: AT }),
  of: z.string({ error: '`of` names a dataset' }).optional(),
  allow: z
    .array(z.enum(RESOURCE_ACTIONS, { error: ALLOW }), { error: ALLOW })
    .min(1, { error: ALLOW })
    .optional(),
  style: z.enum(['plain', 'json-api'], { error: '`style` is plain or json-api' }).optional(),
  path: z
    .record(z.string(), z.string(), { error: '`path` maps parameters of `at` to fields, such as { vessel: imo }' })
    .optional(),
  query: querySchema.optional(),
  page: pageSchema.optional(),
  sort: z.string({ error: '`sort` is a text such as -arrival,name' }).optional(),
  new: newKeySchema.optional(),
  defaults: valuesSchema.optional(),
  stamp: valuesSchema.optional(),
  fits: z.record(z.string(), z.unknown(), { error: '`fits` is a JSON Schema' }).optional(),
  absent: z
    .enum(['missing', 'create'], { error: '`absent` says what a PUT to a new key does: missing or create' })
    .optional(),
  strict: z.boolean({ error: '`strict` is true or false' }).optional(),
  relations: z.record(wordSchema, relationSchema, { error: '`relations` is a map: name -> relation' }).optional(),
  answers: z
    .partialRecord(z.enum(RESOURCE_OUTCOMES), answerSchema, {
      error: `\`answers\` maps ${RESOURCE_OUTCOMES.join(', ')} to answers`,
    })
    .optional(),
});
export type ResourceDefinition = z.output<typeof resourceSchema>;
