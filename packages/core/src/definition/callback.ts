import { z } from 'zod';
import { isHeaderName } from '../answer/header-text.js';
import { durationSchema } from './duration-schema.js';
import { strictKeys } from './strict-keys.js';

const MOST_TRIES = 20;
const TRIES = `\`tries\` is a whole number from 1 to ${MOST_TRIES}`;
const TO = '`to` is the URL that is called, such as "${call.json.notify}"';
const METHOD = '`method` is one in capitals, such as POST';
const FORMS = ['json', 'xml', 'text'] as const;

/** A call that a mock makes by itself, once its answer is sent. */
export const callbackSchema = strictKeys(
  '`callback`',
  {
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
    after: durationSchema.optional(),
    tries: z.int({ error: TRIES }).min(1, { error: TRIES }).max(MOST_TRIES, { error: TRIES }).optional(),
    gap: durationSchema.optional(),
  },
  ['form', 'sign'],
).superRefine((callback, context) => {
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
