import type { AddressInfo } from 'node:net';
import { connect, createServer, type Server, type Socket } from 'node:net';

/** A way to a server that can be cut and mended: what stands behind it seems lost for a while. */
export interface CuttableProxy {
  readonly port: number;
  readonly cut: () => Promise<void>;
  readonly mend: () => Promise<void>;
}

export async function createCuttableProxy(targetPort: number): Promise<CuttableProxy> {
  const sockets = new Set<Socket>();
  let server = await listen(0);
  const { port } = server.address() as AddressInfo;

  function listen(at: number): Promise<Server> {
    const made = createServer((incoming) => {
      const outgoing = connect(targetPort, '127.0.0.1');
      for (const socket of [incoming, outgoing]) {
        sockets.add(socket);
        socket.on('error', () => {});
        socket.on('close', () => sockets.delete(socket));
      }
      incoming.pipe(outgoing).pipe(incoming);
    });
    return new Promise((resolve) => made.listen(at, '127.0.0.1', () => resolve(made)));
  }

  return {
    port,
    cut: async () => {
      const closed = new Promise((resolve) => server.close(resolve));
      for (const socket of sockets) socket.destroy();
      await closed;
    },
    mend: async () => {
      server = await listen(port);
    },
  };
}
