import { z } from 'zod';

/** Upsetter's own certificate authority: what applications have to trust. */
export const authorityViewSchema = z.object({
  name: z.string(),
  /** PEM. */
  certificate: z.string(),
  /** SHA-256, as `AA:BB:...` */
  fingerprint: z.string(),
  validUntil: z.string(),
});
export type AuthorityView = z.output<typeof authorityViewSchema>;

const NAME = 'a name of at most 64 characters is expected';
/** Whom a client certificate is to be of: its common name. */
export const issueSchema = z.object({
  name: z.string({ error: NAME }).min(1, { error: NAME }).max(64, { error: NAME }),
});

/** A client certificate with its private key, both PEM: kept nowhere else. */
export const issuedSchema = z.object({ name: z.string(), certificate: z.string(), key: z.string() });
export type IssuedCertificate = z.output<typeof issuedSchema>;
