import type { CallRecord } from '@upsetter/core';
import type { CallRepository } from '../store.js';

export interface CallWriterOptions {
  /** Calls that may wait while the store is away; beyond, the oldest are given up and counted. */
  readonly mostWaiting: number;
  readonly onTrouble: (message: string) => void;
}

/** What the writer is at: shown by /health. */
export interface CallWriterState {
  readonly waiting: number;
  readonly givenUp: number;
  readonly storeAway: boolean;
}

export interface CallWriter {
  readonly received: (record: CallRecord) => void;
  readonly completed: (record: CallRecord) => void;
  readonly state: () => CallWriterState;
  /** Writes what waits, for at most `limitMs`; gives how many calls could not be written. */
  readonly drain: (limitMs: number) => Promise<number>;
}

const FLUSH_EVERY_MS = 50;
const MOST_IN_BATCH = 2_000;
/** A call that is in flight for longer is written as such, so that it is not lost with the process. */
const IN_FLIGHT_AFTER_MS = 1_000;
const FIRST_RETRY_MS = 250;
const LONGEST_RETRY_MS = 5_000;

/** Writes calls to the store in batches, behind the calls' own path: bounded in memory, patient while the store is away. */
export function createCallWriter(repository: CallRepository, options: CallWriterOptions): CallWriter {
  return new BatchWriter(repository, options);
}

class BatchWriter implements CallWriter {
  readonly #repository: CallRepository;
  readonly #options: CallWriterOptions;
  readonly #inFlight = new Set<CallRecord>();
  readonly #writtenInFlight = new Set<CallRecord>();
  #queue: CallRecord[] = [];
  #givenUp = 0;
  #retryMs = 0;
  #timer: NodeJS.Timeout | null = null;
  #writing: Promise<void> | null = null;

  constructor(repository: CallRepository, options: CallWriterOptions) {
    this.#repository = repository;
    this.#options = options;
  }

  received = (record: CallRecord): void => {
    this.#inFlight.add(record);
    this.#schedule(FLUSH_EVERY_MS);
  };

  completed = (record: CallRecord): void => {
    this.#inFlight.delete(record);
    this.#queue.push(record);
    if (this.#queue.length > this.#options.mostWaiting) this.#giveUpOldest();
    this.#schedule(FLUSH_EVERY_MS);
  };

  state = (): CallWriterState => ({
    waiting: this.#queue.length,
    givenUp: this.#givenUp,
    storeAway: this.#retryMs > 0,
  });

  drain = async (limitMs: number): Promise<number> => {
    const endMs = Date.now() + limitMs;
    while ((this.#queue.length > 0 || this.#writing !== null) && Date.now() < endMs) {
      await this.#flush();
      if (this.#retryMs > 0) await new Promise((resolve) => setTimeout(resolve, FIRST_RETRY_MS));
    }
    if (this.#timer !== null) clearTimeout(this.#timer);
    this.#timer = null;
    return this.#queue.length;
  };

  #giveUpOldest(): void {
    const count = Math.ceil(this.#options.mostWaiting / 10);
    this.#queue.splice(0, count);
    this.#givenUp += count;
    this.#options.onTrouble(
      `${this.#givenUp} calls were given up: the store is away and ${this.#options.mostWaiting} calls wait already`,
    );
  }

  #schedule(ms: number): void {
    this.#timer ??= setTimeout(() => {
      this.#timer = null;
      void this.#flush();
    }, ms);
  }

  #flush(): Promise<void> {
    this.#writing ??= this.#write().finally(() => {
      this.#writing = null;
      if (this.#queue.length > 0 || this.#inFlight.size > 0) this.#schedule(Math.max(FLUSH_EVERY_MS, this.#retryMs));
    });
    return this.#writing;
  }

  async #write(): Promise<void> {
    const batch = this.#queue.slice(0, MOST_IN_BATCH);
    try {
      await this.#writeInFlight();
      const known = batch.filter((record) => this.#writtenInFlight.has(record));
      const fresh = known.length === 0 ? batch : batch.filter((record) => !this.#writtenInFlight.has(record));
      if (fresh.length > 0) await this.#repository.write(fresh);
      for (const record of known) await this.#repository.writeAgain(record);
      for (const record of known) this.#writtenInFlight.delete(record);
      this.#removeWritten(batch);
      if (this.#retryMs > 0) this.#options.onTrouble(`the store is back; ${batch.length} calls were written`);
      this.#retryMs = 0;
    } catch (error) {
      if (this.#retryMs === 0) this.#options.onTrouble(`the store is away, calls wait: ${(error as Error).message}`);
      this.#retryMs = Math.min(LONGEST_RETRY_MS, Math.max(FIRST_RETRY_MS, this.#retryMs * 2));
    }
  }

  /** The batch stands at the front, unless some of it was given up while it was written. */
  #removeWritten(batch: readonly CallRecord[]): void {
    const first = this.#queue[0];
    const skipped = first === undefined ? batch.length : batch.indexOf(first);
    if (skipped >= 0) this.#queue.splice(0, batch.length - skipped);
  }

  async #writeInFlight(): Promise<void> {
    const beforeMs = Date.now() - IN_FLIGHT_AFTER_MS;
    for (const record of this.#inFlight) {
      if (record.request.receivedAtMs > beforeMs) break;
      if (this.#writtenInFlight.has(record)) continue;
      await this.#repository.writeAgain(record);
      this.#writtenInFlight.add(record);
    }
  }
}
