import { z } from 'zod';
import { isHeaderName } from '../answer/header-text.js';
import { formSchema } from './answer-forms.js';
import { durationSchema } from './duration-schema.js';
import { strictKeys } from './strict-keys.js';

const MOST_TRIES = 20;
const TRIES = `\`tries\` is a whole number from 1 to ${MOST_TRIES}`;
const TO = '`to` is the URL that is called, such as "${call.json.notify}"';
const METHOD = '`method` is one in capitals, such as POST';
const FORMS = ['json', 'xml', 'text', 'form'] as const;
const SIGN = '`sign` is { header, key }, and digest, coding, prefix, over where they are others than usual';

/** A keyed digest of the body (or of `over`), in a header. */
const signSchema = strictKeys('`sign`', {
  header: z.string({ error: SIGN }).refine(isHeaderName, { error: 'not a header name' }),
  key: z.string({ error: SIGN }).min(1, { error: SIGN }),
  digest: z.enum(['md5', 'sha1', 'sha256', 'sha384', 'sha512']).optional(),
  coding: z.enum(['hex', 'base64', 'base64url']).optional(),
  prefix: z.string().optional(),
  over: z.string().optional(),
});
export type SignDefinition = z.output<typeof signSchema>;

/** A call that a mock makes by itself, once its answer is sent. */
export const callbackSchema = strictKeys('`callback`', {
  to: z.string({ error: TO }).min(1, { error: TO }),
  method: z
    .string({ error: METHOD })
    .regex(/^[A-Z][A-Z-]*$/, { error: METHOD })
    .optional(),
  headers: z
    .record(
      z.string().refine(isHeaderName, { error: 'not a header name' }),
      z.union([z.string(), z.number(), z.boolean()], { error: 'a header value is a text' }),
    )
    .optional(),
  json: z.json().optional(),
  xml: z.string({ error: '`xml` is a text of XML' }).optional(),
  text: z.string({ error: '`text` is a text' }).optional(),
  form: formSchema.optional(),
  sign: signSchema.optional(),
  after: durationSchema.optional(),
  tries: z.int({ error: TRIES }).min(1, { error: TRIES }).max(MOST_TRIES, { error: TRIES }).optional(),
  gap: durationSchema.optional(),
}).superRefine((callback, context) => {
  const forms = FORMS.filter((form) => callback[form] !== undefined);
  if (forms.length > 1)
    context.addIssue({
      code: 'custom',
      path: [forms[1] ?? ''],
      message: `a callback has one body, here are ${forms.join(' and ')}`,
    });
  if (callback.gap !== undefined && callback.tries === undefined)
    context.addIssue({
      code: 'custom',
      path: ['gap'],
      message: '`gap` is the time between tries: say how many `tries`',
    });
});
export type CallbackDefinition = z.output<typeof callbackSchema>;
