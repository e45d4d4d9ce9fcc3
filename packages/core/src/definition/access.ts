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

const KEYS = '`keys` is own, or a key set { keys: [...] }, usually a file beside: ./keys.json';
const keySetSchema = z.union(
  [
    z.literal('own'),
    z.looseObject({ keys: z.array(z.record(z.string(), z.unknown()), { error: KEYS }) }, { error: KEYS }),
  ],
  { error: KEYS },
);

const BEARER = '`bearer` is { tokens: [...] } or { jwt: { key: ... } }';
const jwtSchema = strictKeys('`jwt`', {
  /** The key it is signed with: a shared one (HS256, HS384, HS512), or the public half of a pair, PEM. */
  key: secret.optional(),
  /** A key set (RFC 7517), usually a file beside; `own`: the keys that the service's token endpoint signs with. */
  keys: keySetSchema.optional(),
  issuer: plain.optional(),
  audience: plain.optional(),
  /** What its claims have to be, by name. */
  claims: z.record(z.string(), comparisonSchema).optional(),
}).refine(({ key, keys }) => (key === undefined) !== (keys === undefined), {
  error: '`jwt` has either `key` or `keys`',
  when: hasNoMistakes,
});
const bearerSchema = strictKeys('`bearer`', { tokens: secrets.optional(), jwt: jwtSchema.optional() }).superRefine(
  (bearer, context) => {
    if ((bearer.tokens === undefined) === (bearer.jwt === undefined) && hasNoMistakes(context))
      context.addIssue({ code: 'custom', message: BEARER });
  },
);

/** A client certificate that the mock trusts; `is`: of these common names only. */
const certificateSchema = z.union([z.literal(true), strictKeys('`certificate`', { is: secrets })], {
  error: '`certificate` is true, or { is: [NAME, ...] }',
});

/** Who may call: one of the ways that are named is enough. `open`: everybody. */
export const accessSchema = z.union(
  [
    z.literal('open'),
    strictKeys('`access`', {
      key: keySchema.optional(),
      /** User -> password. */
      basic: z.record(z.string(), secret, { error: '`basic` maps users to passwords' }).optional(),
      bearer: bearerSchema.optional(),
      certificate: certificateSchema.optional(),
      /** The answer to who may not; a 401 or 403 problem unless said. */
      refuse: answerSchema.optional(),
    }).superRefine((access, context) => {
      const ways = [access.key, access.basic, access.bearer, access.certificate].filter((way) => way !== undefined);
      if (ways.length === 0 && hasNoMistakes(context))
        context.addIssue({ code: 'custom', message: '`access` needs a way in: key, basic, bearer or certificate' });
    }),
  ],
  { error: '`access` is open, or has key, basic, bearer or certificate' },
);
export type AccessDefinition = z.output<typeof accessSchema>;
export type GuardedAccess = Exclude<AccessDefinition, 'open'>;
