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
