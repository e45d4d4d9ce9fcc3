import { createServer, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Duplex } from 'node:stream';
import { listen, type MockListener, refuseBrokenRequest, stopServer } from '../listener/mock-listener.js';
import { createRewrite } from './answer-rewrite.js';
import { type RelayOptions, relayCall } from './relay-call.js';
import { relayUpgrade } from './relay-upgrade.js';

// Node's own limit of 5 s would close connections that callers keep for later.
const KEEP_ALIVE_MS = 75_000;
const MAX_HEADER_BYTES = 64 * 1024;

export interface RelayListenerOptions extends Omit<RelayOptions, 'rewrite'> {
  /** Whether redirects, links and cookies are rewritten to the relay's own address. */
  readonly rewrites: boolean;
}

/** Opens a listener that passes every call through to an upstream and tells what it heard; port 0 takes a free one. Fails with `port-in-use`. */
export async function openRelay(host: string, port: number, given: RelayListenerOptions): Promise<MockListener> {
  let options: RelayOptions = { ...given, rewrite: null };
  const server = createServer(
    { keepAliveTimeout: KEEP_ALIVE_MS, maxHeaderSize: MAX_HEADER_BYTES, requestTimeout: 0 },
    (incoming, outgoing) => relayCall(incoming, outgoing, options),
  );
  const tunnels = new Set<Duplex>();
  server.on('upgrade', (incoming: IncomingMessage, socket: Duplex, head: Buffer) => {
    tunnels.add(socket);
    socket.on('close', () => tunnels.delete(socket));
    relayUpgrade(incoming, socket, head, options);
  });
  server.on('clientError', refuseBrokenRequest);
  await listen(server, host, port);
  const actual = (server.address() as AddressInfo).port;
  const address = `http://${host}:${actual}`;
  if (given.rewrites) options = { ...options, rewrite: createRewrite(new URL(given.upstream.url).origin, address) };
  return {
    port: actual,
    address,
    stop: async (graceMs) => {
      for (const socket of tunnels) socket.destroy();
      await stopServer(server, graceMs);
      options.upstream.close();
    },
  };
}
