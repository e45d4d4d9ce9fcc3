import { open } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import type { StoredForm } from '@upsetter/core';
import type { Call } from '../call/call.js';
import { bodyTarget } from './paced-body.js';

/**
 * Sends a file from where it is, piece by piece as the caller takes it: however long it is, no more than a piece is held.
 * `begin` writes the head once the file is open; false: the file is not there, or is shorter than it was.
 */
export async function sendStored(call: Call, { path, start, end }: StoredForm, begin: () => void): Promise<boolean> {
  const { outgoing, record } = call;
  const file = await open(path, 'r').catch(() => null);
  if (file === null) return false;
  const { size } = await file.stat();
  if (size <= end) {
    await file.close();
    return false;
  }
  begin();
  try {
    await pipeline(file.createReadStream({ start, end }), bodyTarget(call, end - start + 1));
  } catch (error) {
    // Who left is told of by the connection; what could not be read is a trouble.
    if ((error as NodeJS.ErrnoException).code !== 'ERR_STREAM_PREMATURE_CLOSE')
      record.trouble ??= `${path} could not be read to its end: ${(error as Error).message}`;
    outgoing.destroy();
  }
  return true;
}
