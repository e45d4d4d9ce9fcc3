import { z } from 'zod';
import { answerSchema } from './answer.js';
import { comparisonSchema } from './comparison.js';
import { hasNoMistakes, strictKeys } from './strict-keys.js';

const KEY = '`key` is { header: NAME, is: ... } or { query: NAME, is: ... }';
/** Variables were put in before: an expression that is still there has no value. */
const plain = z.string({ error: 'a text is expected, such as "${vars.key}"' }).refine((text) => !text.includes('${'), {
  error: 'only ${vars.NAME} stands here, of a variable that `variables` has',
});
const secret = plain.min(1, { error: 'a text is expected' });
const secrets = z.union([secret, z.array(secret).min(1)], { error: 'a text or a list of texts is expected' });

/** A key in a header or in the query. */
const keySchema = strictKeys('`key`', {
  header: z.string({ error: KEY }).optional(),
  query: z.string({ error: KEY }).optional(),
  is: secrets,
}).superRefine((key, context) => {
  if ((key.header === undefined) === (key.query === undefined) && hasNoMistakes(context))
    context.addIssue({ code: 'custom', message: KEY });
});

const BEARER = '`bearer` is { tokens: [...] } or { jwt: { key: ... } }';
const jwtSchema = strictKeys('`jwt`', {
  /** The shared key it is signed with (HS256, HS384, HS512). */
  key: secret,
  issuer: plain.optional(),
  audience: plain.optional(),
  /** What its claims have to be, by name. */
  claims: z.record(z.string(), comparisonSchema).optional(),
});
const bearerSchema = strictKeys('`bearer`', { tokens: secrets.optional(), jwt: jwtSchema.optional() }).superRefine(
  (bearer, context) => {
    if ((bearer.tokens === undefined) === (bearer.jwt === undefined) && hasNoMistakes(context))
      context.addIssue({ code: 'custom', message: BEARER });
  },
);

/** Who may call: one of the ways that are named is enough. `open`: everybody. */
export const accessSchema = z.union(
  [
    z.literal('open'),
    strictKeys(
      '`access`',
      {
        key: keySchema.optional(),
        /** User -> password. */
        basic: z.record(z.string(), secret, { error: '`basic` maps users to passwords' }).optional(),
        bearer: bearerSchema.optional(),
        /** The answer to who may not; a 401 or 403 problem unless said. */
        refuse: answerSchema.optional(),
      },
      ['certificate'],
    ).superRefine((access, context) => {
      const ways = [access.key, access.basic, access.bearer].filter((way) => way !== undefined);
      if (ways.length === 0 && hasNoMistakes(context))
        context.addIssue({ code: 'custom', message: '`access` needs a way in: key, basic or bearer' });
    }),
  ],
  { error: '`access` is open, or has key, basic or bearer' },
);
export type AccessDefinition = z.output<typeof accessSchema>;
export type GuardedAccess = Exclude<AccessDefinition, 'open'>;
