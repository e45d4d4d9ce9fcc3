import { AppError } from '../errors/app-error.js';
import type { ReadHar } from '../traffic/har-reader.js';
import { maskExchanges, SecretMasker } from '../traffic/secret-masker.js';
import type { Draft } from './draft.js';
import { type DraftTrafficOptions, draftTraffic } from './draft-traffic.js';

export interface DraftHarOptions extends DraftTrafficOptions {
  /** Names of headers, fields and parameters to mask beside the usual ones. */
  readonly masks?: readonly string[];
}

/**
 * A service from a HAR file, its secrets masked first under a key that only the file itself gives: the same file drafts
 * the same. Fails with `file-unreadable`.
 */
export function draftHar({ exchanges, unusable, digest }: ReadHar, options: DraftHarOptions): Draft {
  if (exchanges.length === 0) {
    const why =
      unusable[0] === undefined ? 'it has no log.entries, or none in them' : `${unusable[0].at}: ${unusable[0].reason}`;
    throw new AppError('file-unreadable', `nothing in the file can be drafted as HAR: ${why}`, { unusable });
  }
  const masker = new SecretMasker(digest, options.masks);
  const draft = draftTraffic(maskExchanges(exchanges, masker), options);
  const masked = masker.places().map(({ place, count }) => `${place} (${count})`);
  const told = { of: 'draft', concluded: 'masked secrets, keeping their shape', evidence: masked.join(', ') };
  return { ...draft, decisions: masked.length === 0 ? draft.decisions : [told, ...draft.decisions], unusable };
}
