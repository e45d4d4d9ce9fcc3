import type { Socket } from 'node:net';

/** What a caller says first, put back to be read again; null: it left before it said anything. */
export function firstBytes(socket: Socket, head: Buffer): Promise<Buffer | null> {
  if (head.length > 0) socket.unshift(head);
  return new Promise((resolve) => {
    const onReadable = (): void => {
      const chunk = socket.read() as Buffer | null;
      if (chunk === null) return;
      stop();
      socket.unshift(chunk);
      resolve(chunk);
    };
    const onEnd = (): void => {
      stop();
      socket.destroy();
      resolve(null);
    };
    const stop = (): void => {
      socket.off('readable', onReadable);
      socket.off('end', onEnd);
      socket.off('close', onEnd);
    };
    socket.on('readable', onReadable);
    socket.on('end', onEnd);
    socket.on('close', onEnd);
  });
}

// A handshake record (RFC 8446, 5.1).
const TLS_HANDSHAKE = 0x16;

export function isTls(first: Buffer): boolean {
  return first[0] === TLS_HANDSHAKE;
}

/** Whether it reads as the beginning of a request line. */
export function isHttp(first: Buffer): boolean {
  return /^[A-Z]{1,20}( |$)/.test(first.toString('latin1', 0, 21));
}
