import { createSecureContext, createServer, type SecureContext, type Server, type TLSSocket } from 'node:tls';
import type { KeyedCertificate } from '../authority/make-authority.js';
import { describeHandshake, type FailedHandshake } from './failed-handshake.js';
import type { ListenerTls } from './listener-options.js';

const MOST_CONTEXTS = 1_000;

/** A server that opens TLS and hands on what is inside; the certificate is the one of the host that the caller names (RFC 6066, 3). `onFailed`: told of connections that come to nothing. */
export async function createSecureServer(
  tls: ListenerTls,
  protocols: readonly string[],
  onOpened: (socket: TLSSocket) => void,
  onFailed: (failure: FailedHandshake) => void,
): Promise<Server> {
  const { clients } = tls;
  const contexts = new Map<string, Promise<SecureContext>>();
  const contextOf = (name: string): Promise<SecureContext> => {
    const known = contexts.get(name);
    if (known !== undefined) return known;
    if (contexts.size >= MOST_CONTEXTS) contexts.delete(contexts.keys().next().value ?? '');
    const made = tls.certificateFor(name).then((keyed) => createSecureContext(toContext(keyed, tls)));
    contexts.set(name, made);
    return made;
  };
  const server = createServer(
    {
      ...toContext(await tls.certificateFor('localhost'), tls),
      ALPNProtocols: [...protocols],
      requestCert: clients !== null,
      rejectUnauthorized: clients?.isRequired ?? false,
      SNICallback: (name, done) => {
        contextOf(name).then(
          (context) => done(null, context),
          (error: Error) => done(error),
        );
      },
    },
    onOpened,
  );
  server.on('tlsClientError', (error, socket) => {
    // Set when the caller's certificate does not hold; the types say always.
    const unverified = (socket.authorizationError as unknown as string | null | undefined) ?? undefined;
    onFailed({ atMs: Date.now(), from: socket.remoteAddress ?? null, reason: describeHandshake(error, unverified) });
    socket.destroy();
  });
  return server;
}

function toContext({ certificatePem, keyPem }: KeyedCertificate, { clients }: ListenerTls) {
  return { cert: certificatePem, key: keyPem, ...(clients === null ? {} : { ca: clients.authorityPem }) };
}
