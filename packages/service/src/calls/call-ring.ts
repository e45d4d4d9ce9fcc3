import { createHash } from 'node:crypto';
import type { CallRecord, DroppedBody } from '@upsetter/core';

const MOST_BODY_BYTES = 64 * 1024 * 1024;
/** A body beyond this is kept as size and digest only. */
export const KEPT_BODY_BYTES = 256 * 1024;

/**
 * The latest calls, in memory: what the console and checks see at once. Bounded in count and in bytes of bodies.
 * A circular array: adding is one assignment; looking one up is rare, and goes through them.
 *
 *   slots:  [ n+2 | n+3 |  n  | n+1 ]      first = n, next = n+4: slot of a call is its number modulo the size
 */
export class CallRing {
  readonly #slots: (CallRecord | null)[];
  readonly #mostCalls: number;
  #first = 0;
  #next = 0;
  #bodyBytes = 0;
  #lastEvictedMs = 0;
  #settledLast: CallRecord | null = null;

  constructor(mostCalls: number) {
    this.#mostCalls = mostCalls;
    this.#slots = new Array<CallRecord | null>(mostCalls).fill(null);
  }

  add(record: CallRecord): void {
    if (this.#next - this.#first === this.#mostCalls) this.#evictOldest();
    this.#slots[this.#next++ % this.#mostCalls] = record;
  }

  /** Bodies count once the call is complete; those over the limit are let go of here. */
  settle(record: CallRecord): void {
    record.request.forget();
    if (this.#settledLast !== null) record.share(this.#settledLast);
    this.#settledLast = record;
    const request = record.request.bodyBytes > KEPT_BODY_BYTES ? dropLarge(record.request.body) : null;
    const response = dropLarge(record.responseBody);
    if (request !== null || response !== null) {
      record.dropped = { request, response };
      if (request !== null) record.request.body = null;
      if (response !== null) record.responseBody = null;
    }
    this.#bodyBytes += bodyBytes(record);
    while (this.#bodyBytes > MOST_BODY_BYTES && this.#next - this.#first > 1) this.#evictOldest();
  }

  get(id: string): CallRecord | undefined {
    return this.newestFirst().find((record) => record.request.id === id);
  }

  newestFirst(): CallRecord[] {
    return this.oldestFirst().reverse();
  }

  oldestFirst(): CallRecord[] {
    const records: CallRecord[] = [];
    for (let at = this.#first; at < this.#next; at++) {
      const record = this.#slots[at % this.#mostCalls];
      if (record !== null && record !== undefined) records.push(record);
    }
    return records;
  }

  get oldestId(): string | null {
    return this.#slots[this.#first % this.#mostCalls]?.request.id ?? null;
  }

  /** When the latest call that had to make room was received; 0 while none had to. */
  get lastEvictedMs(): number {
    return this.#lastEvictedMs;
  }

  #evictOldest(): void {
    const slot = this.#first++ % this.#mostCalls;
    const oldest = this.#slots[slot];
    this.#slots[slot] = null;
    if (oldest === null || oldest === undefined) return;
    this.#lastEvictedMs = oldest.request.receivedAtMs;
    if (oldest.state !== 'in flight') this.#bodyBytes -= bodyBytes(oldest);
  }
}

function bodyBytes(record: CallRecord): number {
  return record.request.bodyBytes + (record.responseBody?.length ?? 0);
}

function dropLarge(body: string | Uint8Array | null): DroppedBody | null {
  if (body === null || body.length <= KEPT_BODY_BYTES) return null;
  return { sizeBytes: Buffer.byteLength(body), sha256: createHash('sha256').update(body).digest('hex') };
}
