import { createServer, type IncomingMessage, type RequestListener, type Server } from 'node:http';
import { type AddressInfo, createServer as createTcpServer, type Socket, type Server as TcpServer } from 'node:net';

export interface RealService {
  readonly url: string;
  readonly server: Server;
  readonly stop: () => Promise<void>;
}

/** A plain HTTP server in the place of a real service. */
export async function startRealService(answer: RequestListener): Promise<RealService> {
  const server = createServer(answer);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return {
    url,
    server,
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}

/** A server that speaks bytes: what it does with a connection is up to the test. */
export async function startRawService(
  onConnection: (socket: Socket) => void,
): Promise<{ url: string; stop: () => void }> {
  const sockets = new Set<Socket>();
  const server: TcpServer = createTcpServer((socket) => {
    sockets.add(socket);
    socket.on('close', () => sockets.delete(socket));
    socket.on('error', () => {});
    onConnection(socket);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    stop: () => {
      for (const socket of sockets) socket.destroy();
      server.close();
    },
  };
}

export async function readAll(incoming: IncomingMessage): Promise<Buffer> {
  const chunks: Buffer[] = [];
  for await (const chunk of incoming) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks);
}
