import { z } from 'zod';
import { durationSchema } from './duration-schema.js';
import { strictKeys } from './strict-keys.js';

const PATH = 'a path such as /oauth/token is expected';
const pathSchema = z.string({ error: PATH }).startsWith('/', { error: PATH });
const SECRET = 'a text is expected, such as "${vars.secret}"';
/** Variables were put in before. */
const secretSchema = z
  .string({ error: SECRET })
  .min(1, { error: SECRET })
  .refine((text) => !text.includes('${'), {
    error: 'only ${vars.NAME} stands here, of a variable that `variables` has',
  });
const SCOPE = '`scope` lists what a client may ask for, each without blanks';

const clientSchema = strictKeys('a client', {
  secret: secretSchema,
  scope: z.array(z.string().regex(/^[\x21\x23-\x5b\x5d-\x7e]+$/, { error: SCOPE }), { error: SCOPE }).optional(),
  claims: z.record(z.string(), z.json(), { error: '`claims` maps names to values' }).optional(),
});
export type TokenClient = z.output<typeof clientSchema>;

export const TOKEN_ALGORITHMS = ['ES256', 'RS256', 'PS256', 'EdDSA'] as const;

/** An endpoint that gives tokens to clients that have a secret (RFC 6749, 4.4). */
export const tokensSchema = strictKeys('`tokens`', {
  at: pathSchema,
  /** Where the public keys are, for whoever verifies the tokens elsewhere. */
  keys: pathSchema.optional(),
  clients: z
    .record(z.string(), z.union([secretSchema, clientSchema]), { error: '`clients` maps names to secrets' })
    .refine((clients) => Object.keys(clients).length > 0, { error: '`clients` needs one' }),
  issuer: z.string({ error: '`issuer` is a text' }).optional(),
  audience: z.string({ error: '`audience` is a text' }).optional(),
  lasts: durationSchema.optional(),
  algorithm: z.enum(TOKEN_ALGORITHMS, { error: `\`algorithm\` is one of ${TOKEN_ALGORITHMS.join(', ')}` }).optional(),
});
export type TokensDefinition = z.output<typeof tokensSchema>;
