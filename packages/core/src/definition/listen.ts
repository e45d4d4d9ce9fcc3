import { z } from 'zod';
import { hasNoMistakes, strictKeys } from './strict-keys.js';

const PORT = 'a port from 0 to 65535 is expected';
const PEM = 'a PEM text is expected, usually a file beside: ./harbour.pem';
const pemSchema = z.string({ error: PEM }).refine((text) => text.includes('-----BEGIN '), { error: PEM });

/** Who may hold a client certificate: one that `authority` signed; left out: Upsetter's own. */
const clientsSchema = strictKeys('`clients`', {
  authority: pemSchema.optional(),
  required: z.boolean({ error: '`required` is true or false' }).optional(),
});

const TLS = '`tls` is auto, or { certificate, key, clients }';
const tlsSchema = z.union(
  [
    z.literal('auto'),
    strictKeys('`tls`', {
      certificate: pemSchema.optional(),
      key: pemSchema.optional(),
      clients: clientsSchema.optional(),
    }).refine(({ certificate, key }) => (certificate === undefined) === (key === undefined), {
      error: '`certificate` and `key` go together; left out, certificates are made',
      when: hasNoMistakes,
    }),
  ],
  { error: TLS },
);

/** Where a mock listens, and what is spoken there. */
export const listenSchema = strictKeys(
  '`listen`',
  {
    port: z.int({ error: PORT }).min(0, { error: PORT }).max(65535, { error: PORT }).optional(),
    tls: tlsSchema.optional(),
    http2: z.boolean({ error: '`http2` is true or false' }).optional(),
  },
  ['at', 'host'],
);
export type ListenDefinition = z.output<typeof listenSchema>;
