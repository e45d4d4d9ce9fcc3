import { z } from 'zod';
import { parseDuration, parseShare } from './duration.js';

/** A duration in a file; stays the text that was written. */
export const durationSchema = z
  .string({ error: 'a duration such as 800ms, 1.5s or 2m is expected' })
  .refine((text) => parseDuration(text) !== null, {
    error: 'a duration such as 800ms, 1.5s or 2m is expected (at most 24h)',
  });

/** A share in a file: `30%`; stays the text that was written. */
export const shareSchema = z
  .string({ error: 'a share such as 30% is expected' })
  .refine((text) => parseShare(text) !== null, { error: 'a share from 0% to 100% is expected' });
