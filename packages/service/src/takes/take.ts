import { randomBytes } from 'node:crypto';
import { type Exchange, SecretMasker } from '@upsetter/core';
import { HostTallies, type MockListener, type RelayedCall, toExchange } from '@upsetter/engine';
import type { StoredTake, TakeRepository } from '@upsetter/store';

/** What is heard is written this long after, so that a busy take costs the store a few statements a second. */
const WRITE_AFTER_MS = 200;
const MOST_EXCHANGES = 50_000;
const KEY_BYTES = 32;

export interface OpenTakeOptions {
  readonly name: string;
  readonly source: StoredTake['source'];
  /** The real service; null at a proxy. */
  readonly upstream: string | null;
  readonly masks: readonly string[];
}

/**
 * A take while it is open: masks what is heard, keeps it in memory and writes it soon after. A secret that shows itself
 * only later is masked in what was heard before, too. The key of the masks is never written down.
 */
export class OpenTake {
  readonly name: string;
  readonly upstream: string | null;
  readonly tallies = new HostTallies();
  listener: MockListener | null = null;
  readonly #source: StoredTake['source'];
  readonly #masker: SecretMasker;
  readonly #exchanges = new Map<number, Exchange>();
  readonly #unwritten = new Set<number>();
  readonly #store: TakeRepository;
  readonly #startedAtMs = Date.now();
  #nextOrder = 0;
  #trouble: string | null = null;
  #writing: Promise<void> = Promise.resolve();
  #timer: NodeJS.Timeout | null = null;

  constructor(options: OpenTakeOptions, store: TakeRepository) {
    this.name = options.name;
    this.upstream = options.upstream;
    this.#source = options.source;
    this.#masker = new SecretMasker(randomBytes(KEY_BYTES), options.masks);
    this.#store = store;
  }

  nextOrder(): number {
    return this.#nextOrder++;
  }

  hear(call: RelayedCall): void {
    if (this.#exchanges.size >= MOST_EXCHANGES) {
      this.#trouble = `only the first ${MOST_EXCHANGES} exchanges are kept`;
      return;
    }
    const exchange = toExchange(call);
    const isNewSecret = this.#masker.learn(exchange).length > 0;
    if (isNewSecret) this.#retrace();
    this.#keep(this.#masker.mask(exchange));
  }

  #retrace(): void {
    for (const exchange of this.#exchanges.values()) {
      const traced = this.#masker.retrace(exchange);
      if (traced !== exchange) this.#keep(traced);
    }
  }

  #keep(exchange: Exchange): void {
    this.#exchanges.set(exchange.index, exchange);
    this.#unwritten.add(exchange.index);
    this.#timer ??= setTimeout(() => void this.write(), WRITE_AFTER_MS);
  }

  /** Writes what is not written yet; what the store refuses is tried again with the next. */
  write(): Promise<void> {
    if (this.#timer !== null) clearTimeout(this.#timer);
    this.#timer = null;
    this.#writing = this.#writing.then(() => this.#writeNow());
    return this.#writing;
  }

  async #writeNow(): Promise<void> {
    const indexes = [...this.#unwritten];
    if (indexes.length === 0) return;
    this.#unwritten.clear();
    try {
      await this.#store.write(
        this.name,
        indexes.flatMap((index) => this.#exchanges.get(index) ?? []),
      );
    } catch (error) {
      for (const index of indexes) this.#unwritten.add(index);
      this.#trouble = `what was heard could not be written yet: ${(error as Error).message}`;
    }
  }

  /** How many exchanges wait for the store. */
  get unwritten(): number {
    return this.#unwritten.size;
  }

  get size(): number {
    return this.#exchanges.size;
  }

  /** In order of their beginning, those after an index. */
  exchanges(after: number, limit: number): readonly Exchange[] {
    const found = [...this.#exchanges.values()].filter(({ index }) => index > after);
    return found.sort((a, b) => a.index - b.index).slice(0, limit);
  }

  view(endedAtMs: number | null): StoredTake {
    return {
      name: this.name,
      source: this.#source,
      upstream: this.upstream,
      state: endedAtMs === null ? 'open' : 'closed',
      startedAtMs: this.#startedAtMs,
      endedAtMs,
      trouble: this.#trouble,
      masked: this.#masker.places(),
      hosts: this.tallies.list(),
    };
  }
}
