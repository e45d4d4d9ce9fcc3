import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Duplex } from 'node:stream';
import { AppError } from '@upsetter/core';
import { answerCall, type MockContext } from '../call/answer-call.js';

/** An open listener of one mock. */
export interface MockListener {
  readonly port: number;
  readonly address: string;
  /** No new connections; calls in flight may finish for `graceMs`, then what is left is closed. */
  readonly stop: (graceMs: number) => Promise<void>;
}

// Longer than clients keep idle connections, so that it is never we who close one just as a call is sent on it.
const KEEP_ALIVE_MS = 75_000;
const MAX_HEADER_BYTES = 64 * 1024;

/** Opens a listener; port 0 takes a free one. Fails with `port-in-use`. */
export async function openMockListener(host: string, port: number, mock: MockContext): Promise<MockListener> {
  const server = createServer(
    { keepAliveTimeout: KEEP_ALIVE_MS, maxHeaderSize: MAX_HEADER_BYTES, requestTimeout: 0 },
    (incoming, outgoing) => answerCall(incoming, outgoing, mock),
  );
  server.on('clientError', refuseBrokenRequest);
  await listen(server, host, port);
  const actual = (server.address() as AddressInfo).port;
  return { port: actual, address: `http://${host}:${actual}`, stop: (graceMs) => stopServer(server, graceMs) };
}

export function listen(server: Server, host: string, port: number): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      const isTaken = error.code === 'EADDRINUSE';
      const message = isTaken
        ? `port ${port} on ${host} is taken by another program`
        : `cannot listen on ${host}:${port}: ${error.message}`;
      reject(new AppError('port-in-use', message, { port }, error));
    });
    server.listen(port, host, () => {
      server.removeAllListeners('error');
      resolve();
    });
  });
}

/** What is not HTTP, or over the header limit, gets a short answer and the connection's end. */
export function refuseBrokenRequest(error: NodeJS.ErrnoException, socket: Duplex): void {
  if (!socket.writable || error.code === 'ECONNRESET') {
    socket.destroy();
    return;
  }
  const status = error.code === 'HPE_HEADER_OVERFLOW' ? '431 Request Header Fields Too Large' : '400 Bad Request';
  socket.end(`HTTP/1.1 ${status}\r\nconnection: close\r\ncontent-length: 0\r\n\r\n`);
}

export async function stopServer(server: Server, graceMs: number): Promise<void> {
  await new Promise<void>((resolve) => {
    const timer = setTimeout(() => server.closeAllConnections(), graceMs);
    server.close(() => {
      clearTimeout(timer);
      resolve();
    });
    server.closeIdleConnections();
  });
}
