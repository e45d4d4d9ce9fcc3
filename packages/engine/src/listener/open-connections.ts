import type { Socket } from 'node:net';

/** The connections of a listener that hands them on: which are open, and which of them have calls in flight. */
export class OpenConnections {
  readonly #calls = new Map<Socket, number>();
  #isStopping = false;

  add(socket: Socket): void {
    this.#calls.set(socket, 0);
    socket.on('close', () => this.#calls.delete(socket));
    // Whoever leaves in the middle of a handshake or a call is no trouble of ours.
    socket.on('error', () => socket.destroy());
  }

  /** A call begins on a connection; what it gives is to be called at its end. */
  begin(socket: Socket): () => void {
    this.#calls.set(socket, (this.#calls.get(socket) ?? 0) + 1);
    return () => {
      const left = (this.#calls.get(socket) ?? 1) - 1;
      this.#calls.set(socket, left);
      if (this.#isStopping && left === 0) socket.end();
    };
  }

  /** Those without a call are closed at once, the others at the end of theirs. */
  stop(): void {
    this.#isStopping = true;
    for (const [socket, calls] of this.#calls) if (calls === 0) socket.destroy();
  }

  cut(): void {
    for (const socket of this.#calls.keys()) socket.destroy();
  }
}
