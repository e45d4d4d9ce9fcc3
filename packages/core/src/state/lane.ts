import type { ServiceKeys } from '../access/service-keys.js';
import { hashText } from './draw.js';
import { LaneClock, LaneClocks } from './lane-clock.js';
import { LaneData } from './lane-data.js';

/** State that was set, how many rows datasets have that were changed, and counters. */
export interface LaneChanges {
  readonly state: Readonly<Record<string, unknown>>;
  readonly rows: Readonly<Record<string, number>>;
  readonly counters: Readonly<Record<string, number>>;
}

/** One caller's private world on one service: its state and rows, its counters, its how-manieth calls, its seed. */
export class Lane {
  readonly name: string;
  readonly seedHash: number;
  readonly data = new LaneData();
  readonly counters = new Map<string, number>();
  readonly clock: LaneClock;
  /** Signs and verifies tokens; null: nothing here can. */
  readonly keys: ServiceKeys | null;
  /** When it was called last, in real time; 0: not yet. */
  lastCallMs = 0;
  calls = 0;
  /** The later it was used, the higher; the lowest makes room first. */
  lastUse = 0;
  readonly #calls = new Map<string, number>();
  /** When the lane, and each upset that was switched on since, began, by its clock. */
  readonly #beganMs: number;
  readonly #upsetsBegan = new Map<string, number>();

  constructor(
    name: string,
    seed: string,
    clock: LaneClock = new LaneClock(),
    keys: ServiceKeys | null = null,
    realMs = 0,
  ) {
    this.name = name;
    this.clock = clock;
    this.keys = keys;
    this.#beganMs = clock.now(realMs);
    this.seedHash = hashText(name, hashText(seed));
  }

  /** A call came in. */
  receive(atMs: number): void {
    this.lastCallMs = atMs;
    this.calls++;
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

  /** An upset is switched on: it counts from now on. */
  beginUpset(name: string, realMs: number): void {
    this.#calls.delete(`upset ${name}`);
    this.#upsetsBegan.set(name, this.clock.now(realMs));
  }

  /** Milliseconds, by the lane's clock, since an upset was switched on, or since the lane was made or reset where that is later. */
  ageOf(upset: string, realMs: number): number {
    return this.clock.now(realMs) - (this.#upsetsBegan.get(upset) ?? this.#beganMs);
  }

  /** What is another than at the start. */
  changed(): LaneChanges {
    return { ...this.data.changed(), counters: Object.fromEntries(this.counters) };
  }

  /** The next number of a named counter; the first is `first`. */
  next(counter: string, first = 1): number {
    const value = (this.counters.get(counter) ?? first - 1) + 1;
    this.counters.set(counter, value);
    return value;
  }
}

/** The most lanes one service keeps; the least recently used ones make room. */
export const MOST_LANES = 10_000;
/** So many make room at once: looking for them goes through all. */
const MAKE_ROOM = 100;

/** The lanes of one service, made on first use. */
export class Lanes {
  readonly #seed: string;
  readonly #clocks: LaneClocks;
  readonly #keys: ServiceKeys | null;
  readonly #lanes = new Map<string, Lane>();
  #main: Lane;
  #uses = 0;
  readonly #realMs: () => number;

  /** `realMs`: the time of day, for when lanes begin. */
  constructor(
    seed: string,
    clocks: LaneClocks = new LaneClocks(),
    keys: ServiceKeys | null = null,
    realMs: () => number = () => 0,
  ) {
    this.#seed = seed;
    this.#clocks = clocks;
    this.#keys = keys;
    this.#realMs = realMs;
    this.#main = this.#make('main');
  }

  get(name: string): Lane {
    if (name === 'main') return this.#main;
    let lane = this.#lanes.get(name);
    if (lane === undefined) {
      if (this.#lanes.size >= MOST_LANES) this.#makeRoom();
      lane = this.#make(name);
      this.#lanes.set(name, lane);
    }
    lane.lastUse = ++this.#uses;
    return lane;
  }

  #makeRoom(): void {
    const oldest = [...this.#lanes.values()].sort((a, b) => a.lastUse - b.lastUse).slice(0, MAKE_ROOM);
    for (const { name } of oldest) this.#lanes.delete(name);
  }

  /** Those there are, `main` first. */
  list(): readonly Lane[] {
    return [this.#main, ...this.#lanes.values()];
  }

  /** Makes a lane that is there as it was at the start; a call that is being answered ends in the old one. */
  reset(name: string): void {
    if (name === 'main') this.#main = this.#make(name);
    else if (this.#lanes.has(name)) {
      this.#lanes.delete(name);
      this.get(name);
    }
  }

  /** Lets go of a lane; `main` is always there. */
  drop(name: string): void {
    this.#lanes.delete(name);
  }

  /** An upset is switched on: in every lane it counts from now on. */
  beginUpset(name: string): void {
    for (const lane of this.list()) lane.beginUpset(name, this.#realMs());
  }

  #make(name: string): Lane {
    return new Lane(name, this.#seed, this.#clocks.get(name), this.#keys, this.#realMs());
  }
}
