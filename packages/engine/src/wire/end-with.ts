import type { ServerResponse } from 'node:http';

/**
 * Ends an answer with its whole body. `end(body)` alone leaves the socket two pieces, the second an empty one; head and body as one text are one write,
 * which costs the processor less. `encoding` latin1: the body is ASCII.
 */
export function endWith(outgoing: ServerResponse, body: string | Uint8Array, encoding: 'latin1' | 'utf8'): void {
  const { socket } = outgoing;
  // HTTP/2 has no socket of its own, an answer behind others (pipelining) not yet; bytes are pieces of their own.
  if (socket === null || typeof body !== 'string' || body === '' || 'stream' in outgoing) {
    outgoing.end(body, encoding);
    return;
  }
  socket.cork();
  outgoing.write(body, encoding);
  socket.uncork();
  outgoing.end();
}
