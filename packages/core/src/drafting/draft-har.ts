import { AppError } from '../errors/app-error.js';
import { readHar } from '../traffic/read-har.js';
import type { Draft } from './draft.js';
import { type DraftTrafficOptions, draftTraffic } from './draft-traffic.js';

/** A service from a HAR file. Fails with `file-unreadable`. */
export function draftHar(text: string, options: DraftTrafficOptions): Draft {
  const har = readHar(text);
  if (har.kind === 'refused') throw new AppError('file-unreadable', har.message);
  const unusable = har.unusable.map(({ index, reason }) => ({ at: `log.entries[${index}]`, reason }));
  if (har.exchanges.length === 0)
    throw new AppError('file-unreadable', 'nothing in the file can be drafted', { unusable });
  return { ...draftTraffic(har.exchanges, options), unusable };
}
