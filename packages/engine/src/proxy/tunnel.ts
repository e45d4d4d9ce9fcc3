import { connect } from 'node:net';
import type { Duplex } from 'node:stream';
import { joinStreams } from '../relay/join-streams.js';
import type { ProxyTarget } from './proxy-target.js';

const CONNECT_TIMEOUT_MS = 30_000;

export interface Tunnel {
  readonly target: ProxyTarget;
  /** What the caller said already. */
  readonly head: Buffer;
  /** What the caller hears once the other side is there; empty: it heard it already. */
  readonly greeting: string;
  /** Told when the other side is not to be had. */
  readonly onFailed: (reason: string) => void;
}

/** Connects a caller with what it asked for; bytes flow both ways untouched. */
export function openTunnel(socket: Duplex, { target, head, greeting, onFailed }: Tunnel): void {
  const other = connect({ host: target.host, port: target.port, noDelay: true });
  let isConnected = false;
  other.setTimeout(CONNECT_TIMEOUT_MS, () => other.destroy(new Error('it does not answer')));
  other.once('connect', () => {
    isConnected = true;
    other.setTimeout(0);
    if (greeting !== '') socket.write(greeting);
    if (head.length > 0) other.write(head);
    joinStreams(socket, other);
  });
  other.on('error', (error) => {
    if (!isConnected) onFailed(error.message);
    if (!isConnected && greeting !== '' && socket.writable) socket.end(BAD_GATEWAY);
    else socket.destroy();
  });
  socket.on('error', () => other.destroy());
  socket.on('close', () => other.destroy());
}

const BAD_GATEWAY = 'HTTP/1.1 502 Bad Gateway\r\nconnection: close\r\ncontent-length: 0\r\n\r\n';
