import { z } from 'zod';
import { durationSchema } from './duration-schema.js';
import { strictKeys } from './strict-keys.js';

const ORIGIN = 'an origin such as https://board.harbour.example, or with * for a part: https://*.harbour.example';
const originSchema = z.string({ error: ORIGIN }).regex(/^(null|[a-z][a-z0-9+.-]*:\/\/[^/\s]+)$/i, { error: ORIGIN });
const listOf = (key: string, example: string) =>
  z.array(z.string(), { error: `\`${key}\` is a list such as ${example}` });

const CORS = '`cors` is true, false, or { origins, methods, headers, expose, credentials, maxAge }';

/** Which pages may call and read: all (true), none (false), or by rules. */
export const corsSchema = z.union(
  [
    z.boolean(),
    strictKeys('`cors`', {
      origins: z
        .array(originSchema, { error: '`origins` is a list of origins' })
        .min(1, { error: '`origins` needs an origin; `cors: false` lets none in' })
        .optional(),
      methods: listOf('methods', '[GET, POST]').optional(),
      headers: listOf('headers', '[content-type, x-ask]').optional(),
      expose: listOf('expose', '[etag]').optional(),
      credentials: z.boolean({ error: '`credentials` is true or false' }).optional(),
      maxAge: durationSchema.optional(),
    }),
  ],
  { error: CORS },
);
export type CorsDefinition = z.output<typeof corsSchema>;
