import { createHash } from 'node:crypto';
import type { CallRecord, DroppedBody } from '@upsetter/core';

const MOST_CALLS = 20_000;
const MOST_BODY_BYTES = 64 * 1024 * 1024;
/** A body beyond this is kept as size and digest only. */
export const KEPT_BODY_BYTES = 256 * 1024;

/** The latest calls, in memory, oldest first: what the console and checks see at once. Bounded in count and in bytes of bodies. */
export class CallRing {
  readonly #calls = new Map<string, CallRecord>();
  #bodyBytes = 0;
  #lastEvictedMs = 0;

  add(record: CallRecord): void {
    this.#calls.set(record.request.id, record);
    if (this.#calls.size > MOST_CALLS) this.#evictOldest();
  }

  /** Bodies count once the call is complete; those over the limit are let go of here. */
  settle(record: CallRecord): void {
    const request = dropLarge(record.request.body);
    const response = dropLarge(record.responseBody);
    if (request !== null || response !== null) {
      record.dropped = { request, response };
      if (request !== null) record.request.body = null;
      if (response !== null) record.responseBody = null;
    }
    this.#bodyBytes += bodyBytes(record);
    while (this.#bodyBytes > MOST_BODY_BYTES && this.#calls.size > 1) this.#evictOldest();
  }

  get(id: string): CallRecord | undefined {
    return this.#calls.get(id);
  }

  /** Newest first. */
  newestFirst(): CallRecord[] {
    return [...this.#calls.values()].reverse();
  }

  oldestFirst(): IterableIterator<CallRecord> {
    return this.#calls.values();
  }

  get oldestId(): string | null {
    return this.#calls.keys().next().value ?? null;
  }

  /** When the latest call that had to make room was received; 0 while none had to. */
  get lastEvictedMs(): number {
    return this.#lastEvictedMs;
  }

  #evictOldest(): void {
    const oldest = this.#calls.values().next().value;
    if (oldest === undefined) return;
    this.#calls.delete(oldest.request.id);
    this.#lastEvictedMs = oldest.request.receivedAtMs;
    if (oldest.state !== 'in flight') this.#bodyBytes -= bodyBytes(oldest);
  }
}

function bodyBytes(record: CallRecord): number {
  return (record.request.body?.byteLength ?? 0) + (record.responseBody?.length ?? 0);
}

function dropLarge(body: string | Uint8Array | null): DroppedBody | null {
  if (body === null || body.length <= KEPT_BODY_BYTES) return null;
  return { sizeBytes: Buffer.byteLength(body), sha256: createHash('sha256').update(body).digest('hex') };
}
