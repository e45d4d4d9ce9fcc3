import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { HarReader, type ReadHar } from '@upsetter/core';
import { paint, tell } from '../output/terminal.js';
import { describeUnreadable } from './read-input.js';

const CHUNK_BYTES = 256 * 1024;
const TELL_EVERY_MS = 1_000;

/** A HAR file of any length, read as a stream; how far it got is told every second. Fails with `file-unreadable`. */
export async function readHarFile(path: string): Promise<ReadHar> {
  const reader = new HarReader();
  const hash = createHash('sha256');
  try {
    const { size } = await stat(path);
    let read = 0;
    let toldAtMs = performance.now();
    for await (const chunk of createReadStream(path, { highWaterMark: CHUNK_BYTES })) {
      reader.write(chunk as Buffer);
      hash.update(chunk as Buffer);
      read += (chunk as Buffer).byteLength;
      if (performance.now() - toldAtMs < TELL_EVERY_MS) continue;
      toldAtMs = performance.now();
      tell(paint.faint(`reading ${basename(path)} ... ${Math.floor((read / size) * 100)} %`));
    }
    return reader.end(hash.digest());
  } catch (error) {
    throw describeUnreadable(path, error);
  }
}
