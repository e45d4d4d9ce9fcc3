import { createServer, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Duplex } from 'node:stream';
import { listen, type MockListener, refuseBrokenRequest, stopServer } from '../listener/mock-listener.js';
import { type RelayOptions, relayCall } from './relay-call.js';
import { relayUpgrade } from './relay-upgrade.js';

// Node's own limit of 5 s would close connections that callers keep for later.
const KEEP_ALIVE_MS = 75_000;
const MAX_HEADER_BYTES = 64 * 1024;

/** Opens a listener that passes every call through to an upstream and tells what it heard; port 0 takes a free one. Fails with `port-in-use`. */
export async function openRelay(host: string, port: number, options: RelayOptions): Promise<MockListener> {
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
  return {
    port: actual,
    address: `http://${host}:${actual}`,
    stop: async (graceMs) => {
      for (const socket of tunnels) socket.destroy();
      await stopServer(server, graceMs);
      options.upstream.close();
    },
  };
}
