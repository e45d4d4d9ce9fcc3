import { sha256 } from '@noble/hashes/sha2.js';
import { AppError } from '../errors/app-error.js';
import { readHar } from '../traffic/read-har.js';
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
export function draftHar(text: string, options: DraftHarOptions): Draft {
  const har = readHar(text);
  if (har.kind === 'refused') throw new AppError('file-unreadable', har.message);
  const unusable = har.unusable.map(({ index, reason }) => ({ at: `log.entries[${index}]`, reason }));
  if (har.exchanges.length === 0)
    throw new AppError('file-unreadable', 'nothing in the file can be drafted', { unusable });
  const masker = new SecretMasker(sha256(new TextEncoder().encode(text)), options.masks);
  const draft = draftTraffic(maskExchanges(har.exchanges, masker), options);
  const masked = masker.places().map(({ place, count }) => `${place} (${count})`);
  const told = { of: 'draft', concluded: 'masked secrets, keeping their shape', evidence: masked.join(', ') };
  return { ...draft, decisions: masked.length === 0 ? draft.decisions : [told, ...draft.decisions], unusable };
}
