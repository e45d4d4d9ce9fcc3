import { AppError, type CallRecord } from '@upsetter/core';
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
  /** Takes a call when it is received; that it is complete is seen on the record itself. */
  readonly add: (record: CallRecord) => void;
  /** A call that is complete, and changed once more. */
  readonly change: (record: CallRecord) => void;
  readonly state: () => CallWriterState;
  /** Writes what is complete, for at most `limitMs`; gives how many calls could not be written. */
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
  /** Received and not written to the end yet, oldest first. */
  #waiting: CallRecord[] = [];
  /** Taken out of `#waiting` by the write that is under way; back there when it fails. */
  #underway: readonly CallRecord[] = [];
  readonly #writtenInFlight = new Set<CallRecord>();
  /** Complete calls that changed since they were written, or while they are. */
  readonly #changed = new Set<CallRecord>();
  #givenUp = 0;
  #retryMs = 0;
  #timer: NodeJS.Timeout | null = null;
  #writing: Promise<void> | null = null;

  constructor(repository: CallRepository, options: CallWriterOptions) {
    this.#repository = repository;
    this.#options = options;
  }

  add = (record: CallRecord): void => {
    this.#waiting.push(record);
    if (this.#waiting.length > this.#options.mostWaiting) this.#giveUpOldest();
    if (this.#timer === null) this.#schedule(FLUSH_EVERY_MS);
  };

  change = (record: CallRecord): void => {
    this.#changed.add(record);
    // While the store is away: what is left out is how the callbacks of that call went on.
    if (this.#changed.size > this.#options.mostWaiting)
      this.#changed.delete(this.#changed.values().next().value as CallRecord);
    if (this.#timer === null) this.#schedule(FLUSH_EVERY_MS);
  };

  state = (): CallWriterState => ({ waiting: this.#unwritten(), givenUp: this.#givenUp, storeAway: this.#retryMs > 0 });

  drain = async (limitMs: number): Promise<number> => {
    const endMs = Date.now() + limitMs;
    while (this.#unwritten() > 0 && Date.now() < endMs) {
      await this.#flush();
      if (this.#retryMs > 0) await new Promise((resolve) => setTimeout(resolve, FIRST_RETRY_MS));
    }
    return this.#unwritten();
  };

  #unwritten(): number {
    return this.#waiting.filter(isComplete).length + this.#underway.filter(isComplete).length + this.#changed.size;
  }

  #giveUpOldest(): void {
    const count = Math.ceil(this.#options.mostWaiting / 10);
    this.#waiting.splice(0, count);
    this.#givenUp += count;
    this.#options.onTrouble(
      `${this.#givenUp} calls were given up: the store is away and ${this.#options.mostWaiting} calls wait already`,
    );
  }

  #schedule(ms: number): void {
    this.#timer = setTimeout(() => {
      this.#timer = null;
      void this.#flush();
    }, ms);
  }

  #flush(): Promise<void> {
    this.#writing ??= this.#write().finally(() => {
      this.#writing = null;
      if (this.#waiting.length + this.#changed.size > 0 && this.#timer === null)
        this.#schedule(Math.max(FLUSH_EVERY_MS, this.#retryMs));
    });
    return this.#writing;
  }

  async #write(): Promise<void> {
    const taken = this.#waiting;
    this.#waiting = [];
    this.#underway = taken;
    const done: CallRecord[] = [];
    const open: CallRecord[] = [];
    for (const record of taken) (isComplete(record) && done.length < MOST_IN_BATCH ? done : open).push(record);
    try {
      await this.#writeLongInFlight(open);
      await this.#writeDone(done);
      await this.#writeChanged(open);
      this.#underway = [];
      this.#waiting = [...open, ...this.#waiting];
      if (this.#retryMs > 0) this.#options.onTrouble(`the store is back; ${done.length} calls were written`);
      this.#retryMs = 0;
    } catch (error) {
      if (!isAway(error)) return this.#writeOneByOne(done, open);
      this.#underway = [];
      this.#waiting = [...taken, ...this.#waiting];
      if (this.#retryMs === 0) this.#options.onTrouble(`the store is away, calls wait: ${(error as Error).message}`);
      this.#retryMs = Math.min(LONGEST_RETRY_MS, Math.max(FIRST_RETRY_MS, this.#retryMs * 2));
    }
  }

  async #writeDone(done: readonly CallRecord[]): Promise<void> {
    const isKnown = (record: CallRecord): boolean =>
      this.#writtenInFlight.size > 0 && this.#writtenInFlight.has(record);
    const known = done.filter(isKnown);
    for (const record of known) await this.#repository.writeAgain(record);
    const fresh = known.length === 0 ? done : done.filter((record) => !isKnown(record));
    if (fresh.length > 0) await this.#repository.write(fresh);
    for (const record of known) this.#writtenInFlight.delete(record);
  }

  /** As they are now; those that are not written for the first time yet wait for that. */
  async #writeChanged(open: readonly CallRecord[]): Promise<void> {
    if (this.#changed.size === 0) return;
    const unwritten = new Set([...open, ...this.#waiting]);
    for (const record of [...this.#changed]) {
      if (unwritten.has(record)) continue;
      this.#changed.delete(record);
      try {
        await this.#repository.writeAgain(record);
      } catch (error) {
        if (!isAway(error)) {
          this.#options.onTrouble(
            `the callbacks of ${record.request.id} cannot be written: ${(error as Error).message}`,
          );
          continue;
        }
        this.#changed.add(record);
        throw error;
      }
    }
  }

  /** A batch that the store refuses though it is there: one call must not hold up all others, so the one at fault is given up. */
  async #writeOneByOne(done: readonly CallRecord[], open: readonly CallRecord[]): Promise<void> {
    const left: CallRecord[] = [];
    for (const record of done) {
      try {
        await this.#repository.writeAgain(record);
        this.#writtenInFlight.delete(record);
      } catch (error) {
        if (isAway(error)) left.push(record);
        else {
          this.#givenUp++;
          this.#options.onTrouble(
            `the call ${record.request.id} cannot be written and is given up: ${(error as Error).message}`,
          );
        }
      }
    }
    this.#underway = [];
    this.#waiting = [...left, ...open, ...this.#waiting];
  }

  async #writeLongInFlight(open: readonly CallRecord[]): Promise<void> {
    const beforeMs = Date.now() - IN_FLIGHT_AFTER_MS;
    for (const record of open) {
      if (record.request.receivedAtMs > beforeMs) break;
      if (isComplete(record) || this.#writtenInFlight.has(record)) continue;
      await this.#repository.writeAgain(record);
      this.#writtenInFlight.add(record);
    }
  }
}

function isAway(error: unknown): boolean {
  return error instanceof AppError && error.code === 'store-unavailable';
}

function isComplete(record: CallRecord): boolean {
  return record.state !== 'in flight';
}
