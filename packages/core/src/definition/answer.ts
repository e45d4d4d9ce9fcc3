import { z } from 'zod';
import { isHeaderName } from '../answer/header-text.js';
import { strictKeys } from './strict-keys.js';

const STATUS = 'a status from 200 to 599 is expected';
const headerValue = z.union([z.string(), z.number(), z.boolean()], { error: 'a header value is a text' });

/** Problem Details (RFC 9457); members of its own may follow. */
const problemSchema = z.looseObject(
  {
    title: z.string().optional(),
    detail: z.string().optional(),
    type: z.string().optional(),
    instance: z.string().optional(),
  },
  { error: '`problem` is a map such as { title: No such berth }' },
);

/** The forms a body can take; an answer has one of them, or none. */
export const BODY_FORMS = ['json', 'text', 'problem', 'none', 'base64'] as const;

export const answerSchema = strictKeys(
  'an answer',
  {
    status: z
      .union([z.int({ error: STATUS }).min(200, { error: STATUS }).max(599, { error: STATUS }), z.string()], {
        error: STATUS,
      })
      .optional(),
    headers: z
      .record(
        z.string().refine(isHeaderName, { error: 'not a header name' }),
        z.union([headerValue, z.array(headerValue)]),
      )
      .optional(),
    json: z.json().optional(),
    text: z.string({ error: '`text` is a text' }).optional(),
    problem: problemSchema.optional(),
    base64: z.base64({ error: '`base64` is not valid base64' }).optional(),
    none: z.literal(true, { error: 'write `none: true`' }).optional(),
  },
  ['xml', 'html', 'form', 'soap', 'soapFault', 'events', 'file', 'relay', 'cookies', 'as', 'row', 'serve', 'turns'],
).superRefine((answer, context) => {
  const forms = BODY_FORMS.filter((form) => answer[form] !== undefined);
  if (forms.length > 1) {
    context.addIssue({
      code: 'custom',
      path: [forms[1] ?? ''],
      message: `an answer has one body, here are ${forms.join(' and ')}`,
    });
  }
});
export type Answer = z.output<typeof answerSchema>;
