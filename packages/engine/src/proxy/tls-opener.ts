import type { Socket } from 'node:net';
import { createServer, type Server, type TLSSocket } from 'node:tls';
import type { Authority } from '../authority/authority.js';
import type { ProxyTarget } from './proxy-target.js';
import { renderHost } from './proxy-target.js';

export interface TlsOpenerOptions {
  readonly authority: Authority;
  /** The connection in clear. */
  readonly onOpened: (target: ProxyTarget, socket: TLSSocket) => void;
  /** The caller ended it while TLS was opened. */
  readonly onRefused: (target: ProxyTarget, reason: string) => void;
}

const MOST_SERVERS = 1_000;

/** Opens TLS on connections whose callers meant another host, with certificates that Upsetter's authority signed. */
export class TlsOpener {
  readonly #options: TlsOpenerOptions;
  /** Servers that listen nowhere: one for each host, so that each knows whom it stands for. */
  readonly #servers = new Map<string, Promise<Server>>();

  constructor(options: TlsOpenerOptions) {
    this.#options = options;
  }

  async open(target: ProxyTarget, socket: Socket): Promise<void> {
    const server = await this.#serverFor(target);
    // A caller that distrusts the certificate may just say that it is done: then so are we.
    socket.allowHalfOpen = false;
    server.emit('connection', socket);
  }

  #serverFor(target: ProxyTarget): Promise<Server> {
    const key = renderHost(target);
    const known = this.#servers.get(key);
    if (known !== undefined) return known;
    if (this.#servers.size >= MOST_SERVERS) this.#servers.delete(this.#servers.keys().next().value as string);
    const made = this.#make(target);
    this.#servers.set(key, made);
    return made;
  }

  async #make(target: ProxyTarget): Promise<Server> {
    const { authority, onOpened, onRefused } = this.#options;
    const leaf = await authority.leafFor(target.host);
    const server = createServer({ cert: leaf.certificatePem, key: leaf.keyPem, ALPNProtocols: ['http/1.1'] });
    server.on('secureConnection', (socket) => onOpened(target, socket));
    server.on('tlsClientError', (error, socket) => {
      onRefused(target, describeRefusal(error));
      socket.destroy();
    });
    return server;
  }
}

export const TRUST_HINT = "it has to trust Upsetter's authority, which `upsetter authority export -o FILE` writes";

/** The alerts of a caller that does not trust who signed (RFC 8446, 6.2). */
const DISTRUST = /ALERT_(UNKNOWN_CA|CERTIFICATE_UNKNOWN|BAD_CERTIFICATE|UNSUPPORTED_CERTIFICATE)/;

function describeRefusal(error: Error): string {
  const code = (error as NodeJS.ErrnoException).code ?? '';
  if (DISTRUST.test(code)) return `the application does not trust the certificate: ${TRUST_HINT}`;
  if (code.includes('NO_APPLICATION_PROTOCOL')) return 'the application speaks HTTP/2 only; the proxy opens HTTP/1.1';
  if (code === 'ECONNRESET') return `the application left while TLS was opened: ${TRUST_HINT}`;
  return `TLS could not be opened: ${error.message}`;
}
