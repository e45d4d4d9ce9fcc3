import { type IncomingMessage, STATUS_CODES } from 'node:http';
import type { Duplex } from 'node:stream';
import { joinStreams } from './join-streams.js';
import type { RelayOptions } from './relay-call.js';
import { passHeaders } from './relay-headers.js';
import type { RelayedCall } from './relayed-call.js';

const NO_BODY = { sizeBytes: 0, bytes: new Uint8Array(0) };

/** Passes an `Upgrade` (RFC 9110, 7.8) through: once the upstream agrees, bytes flow both ways untouched. */
export function relayUpgrade(incoming: IncomingMessage, socket: Duplex, head: Buffer, options: RelayOptions): void {
  const { upstream } = options;
  const { method = 'GET', url = '/', rawHeaders } = incoming;
  const order = options.nextOrder();
  const startedAtMs = Date.now();
  const startedMs = performance.now();
  const tell = (status: number, responseHeaders: readonly string[], trouble: string | null): void => {
    const tookMs = performance.now() - startedMs;
    const call: RelayedCall = {
      order,
      startedAtMs,
      firstByteMs: tookMs,
      tookMs,
      method,
      upstream: upstream.url,
      target: url,
      requestHeaders: rawHeaders,
      requestBody: NO_BODY,
      status,
      responseHeaders,
      responseBody: NO_BODY,
      trouble,
    };
    options.onHeard(call);
  };
  const wanted = incoming.headers.upgrade ?? '';
  const headers = [...passHeaders(rawHeaders, upstream.host), 'connection', 'upgrade', 'upgrade', wanted];
  const request = upstream.send(method, url, headers);
  request.on('upgrade', (answer, other: Duplex, otherHead: Buffer) => {
    tell(101, answer.rawHeaders, null);
    socket.write(renderHead(answer));
    if (otherHead.length > 0) socket.write(otherHead);
    if (head.length > 0) other.write(head);
    joinStreams(socket, other);
  });
  request.on('response', (answer) => {
    tell(answer.statusCode ?? 0, answer.rawHeaders, 'the upstream did not switch protocols');
    socket.write(renderHead(answer));
    answer.pipe(socket);
  });
  request.on('error', (error) => {
    tell(0, [], `the upstream cannot be reached: ${error.message}`);
    socket.end('HTTP/1.1 502 Bad Gateway\r\nconnection: close\r\ncontent-length: 0\r\n\r\n');
  });
  socket.on('error', () => request.destroy());
  request.end();
}

function renderHead(answer: IncomingMessage): string {
  const status = answer.statusCode ?? 502;
  const lines = [`HTTP/1.1 ${status} ${answer.statusMessage ?? STATUS_CODES[status] ?? ''}`];
  for (let i = 0; i < answer.rawHeaders.length; i += 2)
    lines.push(`${answer.rawHeaders[i]}: ${answer.rawHeaders[i + 1]}`);
  return `${lines.join('\r\n')}\r\n\r\n`;
}
