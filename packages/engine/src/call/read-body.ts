import type { IncomingMessage } from 'node:http';

/** A body as received; `gone`: the caller left before it was whole. */
export type ReadBody =
  | { readonly kind: 'read'; readonly body: Uint8Array }
  | { readonly kind: 'too-large' }
  | { readonly kind: 'gone' };

/** Collects the body up to a limit. Over it, reading goes on without keeping, so that the caller gets the answer instead of a reset. */
export function readBody(incoming: IncomingMessage, maxBytes: number): Promise<ReadBody> {
  return new Promise((resolve) => {
    if (Number(incoming.headers['content-length'] ?? 0) > maxBytes) {
      incoming.resume();
      resolve({ kind: 'too-large' });
      return;
    }
    const chunks: Buffer[] = [];
    let sizeBytes = 0;
    incoming.on('data', (chunk: Buffer) => {
      sizeBytes += chunk.length;
      if (sizeBytes <= maxBytes) chunks.push(chunk);
      else resolve({ kind: 'too-large' });
    });
    incoming.on('end', () =>
      resolve({ kind: 'read', body: chunks.length === 1 ? (chunks[0] as Buffer) : Buffer.concat(chunks) }),
    );
    incoming.on('close', () => resolve({ kind: 'gone' }));
  });
}
