import { hashText } from './draw.js';
import { LaneData } from './lane-data.js';

/** One caller's private world on one service: its state and rows, its counters, its how-manieth calls, its seed. */
export class Lane {
  readonly name: string;
  readonly seedHash: number;
  readonly data = new LaneData();
  readonly counters = new Map<string, number>();
  readonly #calls = new Map<string, number>();

  constructor(name: string, seed: string) {
    this.name = name;
    this.seedHash = hashText(name, hashText(seed));
  }

  /** How-manieth call of this operation (or upset) this is, from 1. Part of the commit: only what is counted here is drawn from. */
  countCall(key: string): number {
    const count = (this.#calls.get(key) ?? 0) + 1;
    this.#calls.set(key, count);
    return count;
  }

  /** How many there were so far, without counting. */
  callsOf(key: string): number {
    return this.#calls.get(key) ?? 0;
  }

  /** The next number of a named counter; the first is `first`. */
  next(counter: string, first = 1): number {
    const value = (this.counters.get(counter) ?? first - 1) + 1;
    this.counters.set(counter, value);
    return value;
  }
}

/** The most lanes one service keeps; the least recently used one makes room. */
export const MOST_LANES = 10_000;

/** The lanes of one service, made on first use. */
export class Lanes {
  readonly #seed: string;
  readonly #lanes = new Map<string, Lane>();
  readonly #main: Lane;

  constructor(seed: string) {
    this.#seed = seed;
    this.#main = new Lane('main', seed);
  }

  get(name: string): Lane {
    if (name === 'main') return this.#main;
    const known = this.#lanes.get(name);
    if (known !== undefined) {
      this.#lanes.delete(name);
      this.#lanes.set(name, known);
      return known;
    }
    if (this.#lanes.size >= MOST_LANES) this.#lanes.delete(this.#lanes.keys().next().value ?? '');
    const lane = new Lane(name, this.#seed);
    this.#lanes.set(name, lane);
    return lane;
  }
}
