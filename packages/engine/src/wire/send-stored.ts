import { type FileHandle, open } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { StoredForm } from '@upsetter/core';
import type { Call } from '../call/call.js';
import { bodyTarget } from './paced-body.js';

/** How long the body is that a file is sent as, in bytes. */
export function lengthOf({ pieces }: StoredForm): number {
  return pieces.reduce(
    (sum, piece) => sum + (typeof piece === 'string' ? piece.length : piece.end - piece.start + 1),
    0,
  );
}

/**
 * Sends a file from where it is, piece by piece as the caller takes it: however long it is, no more than a piece is held.
 * `begin` writes the head once the file is open; false: the file is not there, or is shorter than it was.
 */
export async function sendStored(call: Call, stored: StoredForm, begin: () => void): Promise<boolean> {
  const { outgoing, record } = call;
  const { path, size } = stored;
  const file = await open(path, 'r').catch(() => null);
  if (file === null) return false;
  if ((await file.stat()).size < size) {
    await file.close();
    return false;
  }
  begin();
  try {
    await pipeline(readPieces(file, stored), bodyTarget(call, lengthOf(stored)));
  } catch (error) {
    // Who left is told of by the connection; what could not be read is a trouble.
    if ((error as NodeJS.ErrnoException).code !== 'ERR_STREAM_PREMATURE_CLOSE')
      record.trouble ??= `${path} could not be read to its end: ${(error as Error).message}`;
    outgoing.destroy();
  } finally {
    await file.close();
  }
  return true;
}

/** One piece is read as it is; several one after the other. */
function readPieces(file: FileHandle, { pieces }: StoredForm): Readable {
  const [only] = pieces;
  if (only !== undefined && typeof only !== 'string' && pieces.length === 1)
    return file.createReadStream({ ...only, autoClose: false });
  return Readable.from(readInTurn(file, pieces), { objectMode: false });
}

async function* readInTurn(file: FileHandle, pieces: StoredForm['pieces']): AsyncGenerator<Buffer, void, undefined> {
  for (const piece of pieces) {
    if (typeof piece === 'string') yield Buffer.from(piece, 'latin1');
    else yield* file.createReadStream({ ...piece, autoClose: false }) as AsyncIterable<Buffer>;
  }
}
