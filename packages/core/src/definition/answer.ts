import { z } from 'zod';
import { isHeaderName } from '../answer/header-text.js';
import {
  asSchema,
  cookiesSchema,
  eventsSchema,
  fileSchema,
  formSchema,
  relaySchema,
  serveSchema,
} from './answer-forms.js';
import { rowPickSchema } from './row-pick.js';
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

const SOAP = '`soap` is the markup that stands in the body of the envelope, or { header: ..., body: ... }';

/** What stands in an envelope, as markup. */
const soapSchema = z.union(
  [z.string(), strictKeys('`soap`', { header: z.string().optional(), body: z.string({ error: SOAP }) })],
  { error: SOAP },
);
export type SoapBody = z.output<typeof soapSchema>;

/** A fault in the words of both versions of SOAP; `detail` is markup. */
const soapFaultSchema = strictKeys('`soapFault`', {
  code: z.enum(['sender', 'receiver'], { error: '`code` is sender (the caller is to blame) or receiver' }).optional(),
  subcode: z.string().optional(),
  reason: z.string({ error: '`reason` is a text for people' }),
  actor: z.string().optional(),
  detail: z.string().optional(),
});
export type SoapFaultBody = z.output<typeof soapFaultSchema>;

/** The forms a body can take; an answer has one of them, or none. */
export const BODY_FORMS = [
  ...(['json', 'xml', 'html', 'text', 'form', 'problem', 'soap', 'soapFault', 'none', 'base64'] as const),
  ...(['file', 'events', 'as', 'relay'] as const),
];

const ONE_ANSWER = {
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
  html: z.string({ error: '`html` is a text of HTML' }).optional(),
  form: formSchema.optional(),
  file: fileSchema.optional(),
  events: eventsSchema.optional(),
  as: asSchema.optional(),
  relay: relaySchema.optional(),
  cookies: cookiesSchema.optional(),
  xml: z.string({ error: '`xml` is a text of XML' }).optional(),
  problem: problemSchema.optional(),
  soap: soapSchema.optional(),
  soapFault: soapFaultSchema.optional(),
  base64: z.base64({ error: '`base64` is not valid base64' }).optional(),
  none: z.literal(true, { error: 'write `none: true`' }).optional(),
  serve: serveSchema.optional(),
  /** The row that `row` reads in this answer. */
  row: rowPickSchema.optional(),
};

type BodyForms = { readonly [Form in (typeof BODY_FORMS)[number]]?: unknown };

function refuseSecondBody(answer: BodyForms, context: z.core.$RefinementCtx): void {
  const forms = BODY_FORMS.filter((form) => answer[form] !== undefined);
  if (forms.length <= 1) return;
  context.addIssue({
    code: 'custom',
    path: [forms[1] ?? ''],
    message: `an answer has one body, here are ${forms.join(' and ')}`,
  });
}

const turnSchema = strictKeys('a turn', {
  ...ONE_ANSWER,
  times: z.int({ error: '`times` is a whole number from 1' }).min(1, { error: '`times` is from 1' }).optional(),
  weight: z.number({ error: '`weight` is a number' }).positive({ error: '`weight` is above 0' }).optional(),
}).superRefine(refuseSecondBody);
export type Turn = z.output<typeof turnSchema>;

const turnsSchema = strictKeys('`turns`', {
  order: z.enum(['in-order', 'around', 'random'], { error: '`order` is in-order, around or random' }).optional(),
  list: z.array(turnSchema, { error: '`list` is a list of answers' }).min(1, { error: '`list` needs an answer' }),
}).superRefine(({ order = 'in-order', list }, context) => {
  list.forEach(({ times, weight }, i) => {
    const isLast = i === list.length - 1;
    if (weight !== undefined && order !== 'random')
      context.addIssue({ code: 'custom', path: ['list', i, 'weight'], message: '`weight` goes with `order: random`' });
    if (times !== undefined && (order === 'random' || (order === 'in-order' && isLast)))
      context.addIssue({
        code: 'custom',
        path: ['list', i, 'times'],
        message:
          order === 'random'
            ? '`times` does not go with `order: random`'
            : 'the last turn in order stays: it has no `times`',
      });
  });
});
export type Turns = z.output<typeof turnsSchema>;

export const answerSchema = strictKeys('an answer', { ...ONE_ANSWER, turns: turnsSchema.optional() })
  .superRefine(refuseSecondBody)
  .superRefine((answer, context) => {
    if (answer.turns !== undefined && Object.keys(answer).length > 1)
      context.addIssue({ code: 'custom', path: ['turns'], message: '`turns` stands alone: its list has the answers' });
  });
export type Answer = z.output<typeof answerSchema>;
