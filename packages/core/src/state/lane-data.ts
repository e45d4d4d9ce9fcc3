import { MOST_ROWS } from '../definition/dataset.js';
import { AppError } from '../errors/app-error.js';
import { showNumbers } from '../json/exact-json.js';
import { identifyRow, isSameKey } from './row-key.js';
import { LaneRows, type Row, type Rows, StartingRows } from './rows.js';
import type { StartingData } from './starting-data.js';

type KeyedValues = Record<string, unknown>;

/** The most keys one keyed state holds in one lane. */
const MOST_KEYS = 100_000;

/**
 * State and rows of one lane: what was changed in it, over what the service starts with. Lanes that only read a dataset
 * share one; what a lane changes lies over it.
 */
export class LaneData {
  readonly #state = new Map<string, unknown>();
  /** Keyed states this lane has a copy of, with their number of keys. */
  readonly #own = new Map<string, number>();
  readonly #rows = new Map<string, LaneRows>();
  readonly #turns = new Map<string, number>();

  readState(name: string, start: StartingData): unknown {
    return this.#state.has(name) ? this.#state.get(name) : (start.state.get(name) ?? null);
  }

  /** The value under a key of a keyed state; null when there is none. */
  readKeyed(name: string, key: string, start: StartingData): unknown {
    const values = this.readState(name, start);
    if (values === null || typeof values !== 'object' || !Object.hasOwn(values, key)) return null;
    return (values as KeyedValues)[key] ?? null;
  }

  set(name: string, value: unknown): void {
    this.#state.set(name, value);
    this.#own.delete(name);
  }

  /** Null takes the key away. */
  setKeyed(name: string, key: string, value: unknown, start: StartingData): void {
    const values = this.#ownValues(name, start);
    const isKnown = Object.hasOwn(values, key);
    const count = this.#own.get(name) ?? 0;
    if (value === null || value === undefined) {
      if (isKnown) this.#own.set(name, count - 1);
      delete values[key];
      return;
    }
    if (!isKnown && count >= MOST_KEYS) refuse(`the state ${name}`, MOST_KEYS);
    if (!isKnown) this.#own.set(name, count + 1);
    values[key] = value;
  }

  /** Keyed values are this lane's own copy from its first change on. */
  #ownValues(name: string, start: StartingData): KeyedValues {
    const now = this.readState(name, start);
    if (this.#own.has(name)) return now as KeyedValues;
    const isKeyed = now !== null && typeof now === 'object' && !Array.isArray(now);
    const values: KeyedValues = Object.assign(Object.create(null), isKeyed ? now : {});
    this.#state.set(name, values);
    this.#own.set(name, Object.keys(values).length);
    return values;
  }

  rows(name: string, start: StartingData): Rows | null {
    return this.#keptRows(name, start) ?? start.datasets.get(name) ?? null;
  }

  /** Rows of its own, unless the dataset has another key since: they could not be found by it. */
  #keptRows(name: string, start: StartingData): LaneRows | null {
    const own = this.#rows.get(name);
    if (own === undefined) return null;
    const key = start.datasets.get(name)?.key;
    if (key === undefined || isSameKey(key, own.key)) return own;
    this.#rows.delete(name);
    return null;
  }

  putRow(name: string, row: Row, start: StartingData): void {
    const rows = this.#ownRows(name, start);
    if (rows.size() >= MOST_ROWS && rows.at(identifyRow(row, rows.key)) === undefined)
      refuse(`the dataset ${name}`, MOST_ROWS);
    rows.put(row);
  }

  removeRow(name: string, row: Row, start: StartingData): void {
    this.#ownRows(name, start).remove(row);
  }

  #ownRows(name: string, start: StartingData): LaneRows {
    const own = this.#keptRows(name, start);
    if (own !== null) return own;
    const made = new LaneRows(start.datasets.get(name) ?? new StartingRows(['id'], []));
    this.#rows.set(name, made);
    return made;
  }

  /** State that was set, and how many rows the datasets have that were changed. */
  changed(): { readonly state: Record<string, unknown>; readonly rows: Record<string, number> } {
    return {
      state: Object.fromEntries(
        [...this.#state].map(([name, value]) => [name, showNumbers(isKeyedCopy(value) ? { ...value } : value)]),
      ),
      rows: Object.fromEntries([...this.#rows].map(([name, rows]) => [name, rows.size()])),
    };
  }

  /** How many turns of a case were taken so far. */
  turnsOf(key: string): number {
    return this.#turns.get(key) ?? 0;
  }

  takeTurn(key: string): void {
    this.#turns.set(key, this.turnsOf(key) + 1);
  }
}

/** Keyed values have no prototype, so that no key means anything else. */
function isKeyedCopy(value: unknown): value is KeyedValues {
  return value !== null && typeof value === 'object' && Object.getPrototypeOf(value) === null;
}

function refuse(what: string, most: number): never {
  throw new AppError('expression-failed', `${what} is full: it holds at most ${most} entries in a lane`);
}
