import type { IncomingMessage } from 'node:http';

/** A body as received; `gone`: the caller left before it was whole. */
export type ReadBody =
  | { readonly kind: 'read'; readonly body: Uint8Array }
  | { readonly kind: 'too-large' }
  | { readonly kind: 'gone' };

const TOO_LARGE: ReadBody = { kind: 'too-large' };
const GONE: ReadBody = { kind: 'gone' };

/**
 * Collects the body up to a limit, and tells it once; a callback, since a promise would be waited for on the path of
 * every call. Over the limit, reading goes on without keeping, so that the caller gets the answer instead of a reset.
 */
export function readBody(
  incoming: IncomingMessage,
  saidBytes: number,
  maxBytes: number,
  done: (read: ReadBody) => void,
): void {
  if (saidBytes > maxBytes) {
    incoming.resume();
    done(TOO_LARGE);
    return;
  }
  let first: Buffer | null = null;
  let others: Buffer[] | null = null;
  let sizeBytes = 0;
  let isDone = false;
  const finish = (read: ReadBody): void => {
    if (isDone) return;
    isDone = true;
    done(read);
  };
  incoming.on('data', (chunk: Buffer) => {
    sizeBytes += chunk.length;
    if (sizeBytes > maxBytes) finish(TOO_LARGE);
    else if (first === null) first = chunk;
    else {
      others ??= [];
      others.push(chunk);
    }
  });
  incoming.on('end', () => finish({ kind: 'read', body: joinChunks(first, others) }));
  incoming.on('close', () => finish(GONE));
}

function joinChunks(first: Buffer | null, others: readonly Buffer[] | null): Uint8Array {
  if (first === null) return NOTHING;
  return others === null ? first : Buffer.concat([first, ...others]);
}

const NOTHING = new Uint8Array(0);
