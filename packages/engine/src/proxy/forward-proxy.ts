import type { IncomingMessage, Server, ServerResponse } from 'node:http';
import type { Socket } from 'node:net';
import type { Duplex } from 'node:stream';
import type { Authority } from '../authority/authority.js';
import { type RelayOptions, relayCall } from '../relay/relay-call.js';
import { relayUpgrade } from '../relay/relay-upgrade.js';
import type { RelayedCall } from '../relay/relayed-call.js';
import type { UpstreamPool } from '../relay/upstream.js';
import { firstBytes, isHttp, isTls } from './first-bytes.js';
import type { HostTallies } from './host-tally.js';
import { type ProxyProblem, renderProblem } from './proxy-problem.js';
import { type ProxyTarget, parseAbsoluteTarget, parseAuthority, renderHost } from './proxy-target.js';
import { TlsOpener, TRUST_HINT } from './tls-opener.js';
import { openTunnel } from './tunnel.js';

export interface ProxyOptions {
  readonly authority: Authority;
  readonly upstreams: UpstreamPool;
  readonly tallies: HostTallies;
  /** Which hosts are heard; the others pass untouched. */
  readonly isHeard: (target: ProxyTarget) => boolean;
  /** The most bytes of a body that are kept; longer ones pass all the same. */
  readonly keptBodyBytes: number;
  /** The next place in the order of calls. */
  readonly nextOrder: () => number;
  /** Told once of every call heard, when it has ended one way or the other. */
  readonly onHeard: (call: RelayedCall) => void;
}

/** Where connections made by CONNECT lead, once they are in clear. */
interface Destination {
  readonly target: ProxyTarget;
  readonly origin: string;
}

type Route = { readonly kind: 'relay'; readonly options: RelayOptions } | ({ readonly kind: 'refused' } & ProxyProblem);

const ESTABLISHED = 'HTTP/1.1 200 Connection Established\r\n\r\n';
const UNHEARD = { keptBodyBytes: 0, nextOrder: () => 0, onHeard: () => {} };

/**
 * A forward proxy on a server of Node: plain requests by their absolute target, everything else by CONNECT (RFC 9110,
 * 9.3.6). Connections to hosts that are heard are opened and served by the same server; the others are tunnelled.
 */
export class ForwardProxy {
  readonly #options: ProxyOptions;
  readonly #server: Server;
  readonly #opener: TlsOpener;
  readonly #destinations = new WeakMap<Duplex, Destination>();
  /** Connections made by CONNECT. */
  readonly #connections = new Set<Socket>();
  /** Those with no call of ours on them: tunnels, and those on which none came yet. */
  readonly #callless = new Set<Socket>();
  #isStopping = false;
  #ownPort = 0;

  constructor(server: Server, options: ProxyOptions) {
    this.#options = options;
    this.#server = server;
    this.#opener = new TlsOpener({
      authority: options.authority,
      onOpened: (target, socket) => {
        socket.on('close', () => this.#tellSilent(target, socket));
        this.#serve(target, 'https', socket);
      },
      onRefused: (target, reason) => options.tallies.add(renderHost(target), 'refused', reason),
    });
    server.on('request', (incoming, outgoing) => this.#answer(incoming, outgoing));
    server.on('upgrade', (incoming, socket, head) => this.#upgrade(incoming, socket as Socket, head));
    server.on('connect', (incoming, socket, head) => void this.#connect(incoming, socket as Socket, head));
  }

  /** Known once the server listens; calls to it would go round for ever. */
  setOwnPort(port: number): void {
    this.#ownPort = port;
  }

  /** Ends what cannot come to an end by itself. */
  cutCallless(): void {
    this.#isStopping = true;
    for (const socket of this.#callless) socket.destroy();
  }

  cutConnections(): void {
    for (const socket of this.#connections) socket.destroy();
  }

  #answer(incoming: IncomingMessage, outgoing: ServerResponse): void {
    const route = this.#routeOf(incoming);
    if (route.kind === 'relay') {
      relayCall(incoming, outgoing, route.options);
      return;
    }
    const { head, body } = renderProblem(route);
    outgoing.writeHead(route.status, head).end(body);
  }

  #upgrade(incoming: IncomingMessage, socket: Socket, head: Buffer): void {
    const route = this.#routeOf(incoming);
    if (route.kind === 'refused') {
      refuseSocket(socket, route);
      return;
    }
    this.#keep(this.#callless, socket);
    relayUpgrade(incoming, socket, head, route.options);
  }

  /** Where a call in clear goes. Its target becomes that of a plain request, as the upstream expects it. */
  #routeOf(incoming: IncomingMessage): Route {
    const absolute = parseAbsoluteTarget(incoming.url ?? '');
    const destination = this.#destinations.get(incoming.socket) ?? null;
    this.#callless.delete(incoming.socket);
    if (absolute !== null) incoming.url = absolute.rest;
    const target = destination?.target ?? absolute;
    if (target === null) return { kind: 'refused', ...NOT_PROXIED, detail: this.#ownAddress() };
    if (this.#isSelf(target)) return { kind: 'refused', ...ROUND };
    const { upstreams, tallies, isHeard, ...hearing } = this.#options;
    const upstream = upstreams.to(destination?.origin ?? absolute?.origin ?? '');
    const heard = destination !== null || isHeard(target);
    tallies.add(renderHost(target), heard ? 'heard' : 'untouched');
    return { kind: 'relay', options: { ...(heard ? hearing : UNHEARD), upstream, rewrite: null } };
  }

  async #connect(incoming: IncomingMessage, socket: Socket, head: Buffer): Promise<void> {
    // A caller may leave at any moment; what that ends is ended below.
    socket.on('error', () => socket.destroy());
    const target = parseAuthority(incoming.url ?? '', null);
    if (target === null) {
      refuseSocket(socket, BAD_TARGET);
      return;
    }
    if (this.#isSelf(target)) {
      refuseSocket(socket, ROUND);
      return;
    }
    this.#keep(this.#connections, socket);
    this.#keep(this.#callless, socket);
    if (!this.#options.isHeard(target)) {
      this.#pass(target, socket, head, ESTABLISHED);
      return;
    }
    socket.write(ESTABLISHED);
    const first = await firstBytes(socket, head);
    if (first === null) return;
    if (isTls(first)) {
      this.#callless.delete(socket);
      await this.#opener.open(target, socket).catch(() => socket.destroy());
    } else if (isHttp(first)) this.#serve(target, 'http', socket);
    else this.#pass(target, socket, Buffer.alloc(0), '');
  }

  #pass(target: ProxyTarget, socket: Socket, head: Buffer, greeting: string): void {
    const { tallies } = this.#options;
    const host = renderHost(target);
    tallies.add(host, 'untouched');
    openTunnel(socket, { target, head, greeting, onFailed: (reason) => tallies.add(host, 'refused', reason) });
  }

  /** Hands a connection in clear to the server, which answers it as any other. */
  #serve(target: ProxyTarget, scheme: 'http' | 'https', socket: Socket): void {
    this.#keep(this.#callless, socket);
    this.#destinations.set(socket, { target, origin: `${scheme}://${renderHost(target)}` });
    this.#server.emit('connection', socket);
  }

  /** Some callers do not say that they distrust a certificate; they just leave. So do some that only warm a connection up. */
  #tellSilent(target: ProxyTarget, socket: Socket): void {
    const { tallies } = this.#options;
    const host = renderHost(target);
    if (!this.#isStopping && this.#callless.has(socket) && tallies.of(host).heard === 0)
      tallies.add(host, 'refused', LEFT_SILENT);
  }

  #keep(sockets: Set<Socket>, socket: Socket): void {
    sockets.add(socket);
    socket.on('close', () => sockets.delete(socket));
  }

  #isSelf({ host, port }: ProxyTarget): boolean {
    return port === this.#ownPort && LOOPBACK.test(host);
  }

  #ownAddress(): string {
    return `Set http_proxy and https_proxy of the application to http://127.0.0.1:${this.#ownPort}. To hear one service at an address of its own: upsetter take start NAME --from URL`;
  }
}

const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|::1)$/;
const LEFT_SILENT = `the application left before its first call: ${TRUST_HINT}`;
const NOT_PROXIED = { status: 400, title: 'This is a proxy; it was called as if it were a service' };
const BAD_TARGET: ProxyProblem = { status: 400, title: 'CONNECT names no host and port', detail: null };
const ROUND: ProxyProblem = {
  status: 508,
  title: 'The proxy was asked to call itself',
  detail: 'Ask it for the real service; its own address is for http_proxy and https_proxy only.',
};

function refuseSocket(socket: Socket, problem: ProxyProblem): void {
  const { head, body } = renderProblem(problem);
  const lines = Object.entries(head).map(([name, value]) => `${name}: ${value}`);
  socket.end(`HTTP/1.1 ${problem.status} Refused\r\nconnection: close\r\n${lines.join('\r\n')}\r\n\r\n${body}`);
}
