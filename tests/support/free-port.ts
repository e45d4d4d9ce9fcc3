import { once } from 'node:events';
import { type AddressInfo, createServer } from 'node:net';

/** A port that nothing listens at, as things are. */
export async function findFreePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  server.close();
  await once(server, 'close');
  return port;
}
