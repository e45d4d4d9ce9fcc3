import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { listen, type MockListener, refuseBrokenRequest, stopServer } from '../listener/mock-listener.js';
import { ForwardProxy, type ProxyOptions } from './forward-proxy.js';

// As of a relay: callers keep connections for later.
const KEEP_ALIVE_MS = 75_000;
const MAX_HEADER_BYTES = 64 * 1024;

/** Opens a forward proxy that hears what passes it; port 0 takes a free one. Fails with `port-in-use`. */
export async function openProxy(host: string, port: number, options: ProxyOptions): Promise<MockListener> {
  const server: Server = createServer({
    keepAliveTimeout: KEEP_ALIVE_MS,
    maxHeaderSize: MAX_HEADER_BYTES,
    requestTimeout: 0,
  });
  const proxy = new ForwardProxy(server, options);
  server.on('clientError', refuseBrokenRequest);
  await listen(server, host, port);
  const actual = (server.address() as AddressInfo).port;
  proxy.setOwnPort(actual);
  return {
    port: actual,
    address: `http://${host}:${actual}`,
    stop: async (graceMs) => {
      const timer = setTimeout(() => proxy.cutConnections(), graceMs);
      proxy.cutCallless();
      await stopServer(server, graceMs);
      clearTimeout(timer);
      options.upstreams.close();
    },
  };
}
