import { createServer as createHttp, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { createServer as createHttp2, type ServerHttp2Session } from 'node:http2';
import { type AddressInfo, createServer as createNet, type Server as NetServer, type Socket } from 'node:net';
import type { Duplex } from 'node:stream';
import type { TLSSocket } from 'node:tls';
import { AppError } from '@upsetter/core';
import { answerCall, type MockContext } from '../call/answer-call.js';
import { firstBytes } from '../proxy/first-bytes.js';
import { toPlainRequest, toPlainResponse } from './http2-call.js';
import { IN_CLEAR, type ListenerOptions } from './listener-options.js';
import { OpenConnections } from './open-connections.js';
import { createSecureServer } from './secure-server.js';

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
export async function openMockListener(
  host: string,
  port: number,
  mock: MockContext,
  options: ListenerOptions = IN_CLEAR,
): Promise<MockListener> {
  if (options.tls !== null || options.http2) return openFront(host, port, mock, options);
  const server = createPlainServer((incoming, outgoing) => answerCall(incoming, outgoing, mock));
  await listen(server, host, port);
  const actual = portOf(server);
  return { port: actual, address: `http://${host}:${actual}`, stop: (graceMs) => stopServer(server, graceMs) };
}

/** A listener that finds out what its callers speak, and hands each connection to a server that speaks it. */
async function openFront(
  host: string,
  port: number,
  mock: MockContext,
  { tls, http2 }: ListenerOptions,
): Promise<MockListener> {
  const connections = new OpenConnections();
  const sessions = new WeakMap<ServerHttp2Session, Socket>();
  const answer = (incoming: IncomingMessage, outgoing: ServerResponse, socket: Socket): void => {
    outgoing.on('close', connections.begin(socket));
    answerCall(incoming, outgoing, mock);
  };
  const plain = createPlainServer((incoming, outgoing) => answer(incoming, outgoing, incoming.socket));
  const streams = createHttp2((incoming, outgoing) => {
    const session = incoming.stream.session as ServerHttp2Session | undefined;
    const socket = session === undefined ? undefined : sessions.get(session);
    if (socket !== undefined) answer(toPlainRequest(incoming), toPlainResponse(outgoing), socket);
  });
  // A caller that breaks the rules of HTTP/2 ends its own session, nothing else.
  streams.on('sessionError', () => {});
  const hand = (socket: Socket, isHttp2: boolean): void => {
    connections.add(socket);
    // A session begins at once; what its requests call their socket is not the very one.
    if (isHttp2) streams.once('session', (session) => sessions.set(session, socket));
    (isHttp2 ? streams : plain).emit('connection', socket);
  };
  const protocols = http2 ? ['h2', 'http/1.1'] : ['http/1.1'];
  const server: NetServer =
    tls === null
      ? createNet((socket) => void handByPreface(socket, hand))
      : await createSecureServer(
          tls,
          protocols,
          (socket: TLSSocket) => hand(socket, socket.alpnProtocol === 'h2'),
          mock.onHandshakeFailed,
        );
  await listen(server, host, port);
  const actual = portOf(server);
  return {
    port: actual,
    address: `${tls === null ? 'http' : 'https'}://${host}:${actual}`,
    stop: (graceMs) => stopFront(server, connections, graceMs),
  };
}

/** In clear, HTTP/2 begins with its preface (RFC 9113, 3.4), which is no request of HTTP/1.1. */
async function handByPreface(socket: Socket, hand: (socket: Socket, isHttp2: boolean) => void): Promise<void> {
  socket.on('error', () => socket.destroy());
  const first = await firstBytes(socket, Buffer.alloc(0));
  if (first !== null) hand(socket, first.toString('latin1', 0, 3) === 'PRI');
}

function createPlainServer(answer: (incoming: IncomingMessage, outgoing: ServerResponse) => void): Server {
  const server = createHttp(
    { keepAliveTimeout: KEEP_ALIVE_MS, maxHeaderSize: MAX_HEADER_BYTES, requestTimeout: 0 },
    answer,
  );
  server.on('clientError', refuseBrokenRequest);
  return server;
}

function portOf(server: NetServer): number {
  return (server.address() as AddressInfo).port;
}

export function listen(server: NetServer, host: string, port: number): Promise<void> {
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

async function stopFront(server: NetServer, connections: OpenConnections, graceMs: number): Promise<void> {
  await new Promise<void>((resolve) => {
    const timer = setTimeout(() => connections.cut(), graceMs);
    server.close(() => {
      clearTimeout(timer);
      resolve();
    });
    connections.stop();
  });
}
