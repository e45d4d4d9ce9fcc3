import type { ServerResponse } from 'node:http';
import { Transform, type TransformCallback, type Writable } from 'node:stream';
import { type PacePlan, slowestPace } from '@upsetter/core';
import type { Call } from '../call/call.js';
import { waitPrecisely } from './wait.js';

/**
 * Where the body of a call's answer is written: the answer itself, or before it what slows it down.
 * `bodyBytes` null: nobody knows how many there will be.
 */
export function bodyTarget({ outgoing, plan }: Call, bodyBytes: number | null): Writable {
  const pace = plan === null || plan.paces === null ? null : slowestPace(plan.paces, bodyBytes);
  if (pace === null) return outgoing as ServerResponse;
  const paced = new PacedBody(pace);
  // The head goes at once: the caller sees that an answer has begun.
  outgoing.flushHeaders();
  outgoing.on('close', () => paced.destroy());
  paced.pipe(outgoing);
  return paced;
}

/** Lets a body pass piece by piece, each at its time; times are counted from the first, so that nothing adds up. */
class PacedBody extends Transform {
  readonly #pace: PacePlan;
  #startedMs: number | null = null;
  #pieces = 0;
  /** Bytes that may still pass with the piece that has begun. */
  #leftBytes = 0;
  #cancel = (): void => {};

  constructor(pace: PacePlan) {
    super({ highWaterMark: 0, readableHighWaterMark: 0 });
    this.#pace = pace;
  }

  override _transform(chunk: Buffer, _encoding: BufferEncoding, done: TransformCallback): void {
    if (this.#pace.pieceBytes === null) this.#leftBytes = 0;
    this.#passFrom(chunk, 0, done);
  }

  override _destroy(error: Error | null, done: (error?: Error | null) => void): void {
    this.#cancel();
    done(error);
  }

  #passFrom(chunk: Buffer, start: number, done: TransformCallback): void {
    for (let at = start; at < chunk.length; ) {
      if (this.#leftBytes === 0) {
        const leftMs = this.#untilPieceMs();
        if (leftMs > 0) {
          this.#cancel = waitPrecisely(leftMs, () => this.#passFrom(chunk, at, done));
          return;
        }
        this.#pieces++;
        this.#leftBytes = this.#pace.pieceBytes ?? chunk.length - at;
      }
      const end = Math.min(chunk.length, at + this.#leftBytes);
      this.#leftBytes -= end - at;
      this.push(chunk.subarray(at, end));
      at = end;
    }
    done();
  }

  /** Milliseconds until the next piece may begin. */
  #untilPieceMs(): number {
    const { gapMs, waitsFirst } = this.#pace;
    const nowMs = performance.now();
    this.#startedMs ??= nowMs;
    return this.#startedMs + (this.#pieces + (waitsFirst ? 1 : 0)) * gapMs - nowMs;
  }
}
