import type { CallRecord } from '@upsetter/core';

const KEPT_CHANGES = 2_000;

/** Calls that changed after a position; `missed`: how many changes were forgotten in between. */
export interface ChangesAfter {
  readonly records: readonly CallRecord[];
  readonly position: number;
  readonly missed: number;
}

/** The latest changes of calls (received, completed), numbered, so that a stream can go on where it broke off. */
export class CallChanges {
  readonly #ring: (CallRecord | undefined)[] = new Array(KEPT_CHANGES);
  readonly #waiting = new Set<() => void>();
  #position = 0;

  add(record: CallRecord): void {
    this.#ring[this.#position++ % KEPT_CHANGES] = record;
    if (this.#waiting.size > 0) this.#wake();
  }

  get position(): number {
    return this.#position;
  }

  /** Each changed call once, in the order of its first change after `position`. */
  after(position: number): ChangesAfter {
    const from = Math.max(position, this.#position - KEPT_CHANGES);
    const records = new Set<CallRecord>();
    for (let at = from; at < this.#position; at++) {
      const record = this.#ring[at % KEPT_CHANGES];
      if (record !== undefined) records.add(record);
    }
    return { records: [...records], position: this.#position, missed: from - position };
  }

  /** Resolves at the next change, or after `limitMs`, or when `signal` ends. */
  next(limitMs: number, signal?: AbortSignal): Promise<void> {
    return new Promise((resolve) => {
      const done = (): void => {
        clearTimeout(timer);
        this.#waiting.delete(done);
        signal?.removeEventListener('abort', done);
        resolve();
      };
      const timer = setTimeout(done, limitMs);
      this.#waiting.add(done);
      signal?.addEventListener('abort', done);
      if (signal?.aborted === true) done();
    });
  }

  #wake(): void {
    for (const done of [...this.#waiting]) done();
  }
}
