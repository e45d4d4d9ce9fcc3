import { z } from 'zod';
import { accessSchema } from './access.js';
import { answerSchema } from './answer.js';
import { contractKeySchema } from './contract-key.js';
import { corsSchema } from './cors.js';
import { datasetSchema } from './dataset.js';
import { lexiconSchema } from './lexicon.js';
import { listenSchema } from './listen.js';
import { findMissingParts } from './missing-parts.js';
import { resourceSchema } from './resource.js';
import { rowPickSchema } from './row-pick.js';
import { strictKeys } from './strict-keys.js';
import { thenStepSchema } from './then-step.js';
import { tokensSchema } from './tokens.js';
import { upsetSchema } from './upset.js';
import { whenSchema } from './when.js';
import { wordSchema } from './word-schema.js';

const NAME = /^[a-z0-9]([a-z0-9-]{0,62}[a-z0-9])?$/;
export const serviceNameSchema = z.string({ error: 'a service needs a name' }).regex(NAME, {
  error: 'a name of a-z, 0-9 and - is expected, such as berth-desk',
});

const KEY_NAME = /^[a-z0-9]([a-z0-9-]{0,62}[a-z0-9])?(@[A-Za-z0-9][A-Za-z0-9._-]{0,63})?$/;
/** What a service is known by in the running service: its name, or one version of it among others. */
export const serviceKeySchema = z.string().regex(KEY_NAME, {
  error: 'a name of a-z, 0-9 and - is expected, such as berth-desk, or one with its version: berth-desk@2.3',
});

const EXACT = '`exact` is a list of places of the answer, such as json $.quay or header cache-control';

const sampleTextsSchema = z.record(z.string(), z.union([z.string(), z.number(), z.boolean()]), {
  error: 'names with texts are expected, such as { berthId: N7 }',
});
/** A call that leads to the case, as far as the contract and the conditions do not say it: what checks and trials send. */
export const sampleSchema = strictKeys('`sample`', {
  path: sampleTextsSchema.optional(),
  query: sampleTextsSchema.optional(),
  headers: sampleTextsSchema.optional(),
  json: z.json().optional(),
  /** By XPath. */
  xml: sampleTextsSchema.optional(),
});

const BECAUSE = '`because` says why the difference is accepted';
/** A difference from the real implementation that a trial is to accept, everywhere or in one environment. */
export const acceptedSchema = strictKeys('an accepted difference', {
  at: z.string({ error: '`at` is the place that differs, such as status or header cache-control' }),
  because: z.string({ error: BECAUSE }).min(1, { error: BECAUSE }),
  in: z.string().optional(),
});
export type AcceptedDifference = z.output<typeof acceptedSchema>;
const acceptListSchema = z.array(acceptedSchema, {
  error: '`accept` is a list such as [{ at: status, because: ... }]',
});

export const caseSchema = strictKeys('a case', {
  case: z.string({ error: 'a case needs a name' }).min(1, { error: 'a case needs a name' }),
  when: whenSchema.optional(),
  let: z.record(wordSchema, z.json(), { error: '`let` maps names to values' }).optional(),
  answer: answerSchema,
  sample: sampleSchema.optional(),
  /** Places of the answer that a trial compares by value; of the others it compares the shape. */
  exact: z.array(z.string({ error: EXACT }), { error: EXACT }).optional(),
  accept: acceptListSchema.optional(),
  // biome-ignore lint/suspicious/noThenProperty: the word of the service file; a case is never awaited
  then: z.array(thenStepSchema, { error: '`then` is a list of steps' }).optional(),
});
export type CaseDefinition = z.output<typeof caseSchema>;

const ON =
  '`on` is a method and a path template, such as GET /berths/{berthId}, or { soap: NAME, at: /PATH }, or { call: POST /PATH, when: {...} }';

/** One SOAP operation of several at a path. `element`: what its body begins with, where that is not its name. */
const soapOnSchema = strictKeys('`on`', {
  soap: z
    .string({ error: '`soap` is the name of the operation' })
    .min(1, { error: '`soap` is the name of the operation' }),
  at: z.string({ error: '`at` is the path that the operation is called at, such as /manifests' }),
  element: z.string().min(1).optional(),
  action: z.string().optional(),
});

/** One operation of several with the same method and path, told by what else a call has: remote procedure calls, queries. */
const callOnSchema = strictKeys('`on`', {
  call: z.string({ error: '`call` is a method and a path template, such as POST /rpc' }),
  when: whenSchema,
});

export const operationSchema = strictKeys('an operation', {
  on: z.union([z.string(), soapOnSchema, callOnSchema], { error: ON }),
  title: z.string().optional(),
  row: rowPickSchema.optional(),
  cases: z.array(caseSchema, { error: '`cases` is a list' }),
  /** For all its cases, and for calls that the contract alone asks for. */
  accept: acceptListSchema.optional(),
  /** Who may call it, where that is another than for the service. */
  access: accessSchema.optional(),
});
export type OperationDefinition = z.output<typeof operationSchema>;

/** A service file, version 1: the only source of its type. */
export const serviceFileSchema = strictKeys(
  'a service file',
  {
    upsetter: z.literal(1, { error: 'the first line of a service file is `upsetter: 1`' }),
    service: serviceNameSchema,
    version: z.string({ error: 'a version is a text: write it in quotes' }).optional(),
    title: z.string().optional(),
    listen: listenSchema.optional(),
    upstream: z.url({ protocol: /^https?$/, error: '`upstream` is an http or https URL' }).optional(),
    strays: z.enum(['answer', 'relay', 'record'], { error: '`strays` is answer, relay or record' }).optional(),
    contract: contractKeySchema.optional(),
    cors: corsSchema.optional(),
    /** Whether a slash at the end of a path counts. */
    slashes: z.enum(['strict', 'loose'], { error: '`slashes` is strict or loose' }).optional(),
    seed: z.string({ error: 'a seed is a text' }).optional(),
    operations: z.record(
      z.string().regex(/^[A-Za-z_][\w.-]*$/, { error: 'an operation name starts with a letter' }),
      operationSchema,
      {
        error: '`operations` is a map: name -> operation',
      },
    ),
    /** Values that expressions read; those of the environment in use go before. */
    variables: z.record(wordSchema, z.json(), { error: '`variables` maps names to values' }).optional(),
    state: z.record(wordSchema, z.json(), { error: '`state` maps names to starting values' }).optional(),
    datasets: z.record(wordSchema, datasetSchema, { error: '`datasets` is a map: name -> dataset' }).optional(),
    resources: z.record(wordSchema, resourceSchema, { error: '`resources` is a map: name -> resource' }).optional(),
    drafted: z.record(z.string(), z.string(), { error: '`drafted` is written by drafts: part -> digest' }).optional(),
    upsets: z.array(upsetSchema, { error: '`upsets` is a list' }).optional(),
    /** The lane of calls that name none: a text, usually with an expression in it. */
    lane: z.string({ error: '`lane` is a text such as "${call.headers[\'x-test\']}"' }).optional(),
    /** Who may call. */
    access: accessSchema.optional(),
    /** An endpoint that gives tokens to clients. */
    tokens: tokensSchema.optional(),
    lexicon: lexiconSchema.optional(),
    /** Prefixes that XPath may use: prefix -> namespace. */
    namespaces: z
      .record(
        z.string().regex(/^[A-Za-z_][\w.-]*$/, { error: 'a prefix of letters and digits is expected' }),
        z.string(),
        {
          error: '`namespaces` maps prefixes to namespaces',
        },
      )
      .optional(),
  },
  ['listener'],
).superRefine((file, context) => {
  for (const missing of findMissingParts(file))
    context.addIssue({ code: 'custom', ...missing, path: [...missing.path] });
});
export type ServiceFile = z.output<typeof serviceFileSchema>;
