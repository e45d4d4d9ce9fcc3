import { identify, identifyRow, type RowKey } from './row-key.js';

/** One row of a dataset. Rows are never changed in place: a change puts another one there. */
export type Row = Readonly<Record<string, unknown>>;

/** What a row must show to be meant: field and value. A text and a number of the same digits are the same here, since paths are text. */
export type Where = readonly (readonly [field: string, value: unknown])[];

/** The most rows one dataset holds in one lane: callers can make it grow, but not without end. */
export const MOST_ROWS = 200_000;

/** The rows of one dataset, in order of their arrival, found by their key at once and by other fields by looking through them. */
export class Rows {
  readonly key: RowKey;
  readonly #byKey: Map<string, Row>;
  #list: readonly Row[] | null = null;

  constructor(key: RowKey, rows: Iterable<Row>) {
    this.key = key;
    this.#byKey = new Map();
    for (const row of rows) this.#byKey.set(identifyRow(row, key), row);
  }

  /** All rows as one list, which stays as it is when rows change. */
  list(): readonly Row[] {
    this.#list ??= [...this.#byKey.values()];
    return this.#list;
  }

  find(where: Where): Row | null {
    const key = this.#keyIn(where);
    if (key === null) return this.list().find((row) => fits(row, where)) ?? null;
    const row = this.#byKey.get(key);
    return row !== undefined && fits(row, where) ? row : null;
  }

  findAll(where: Where): readonly Row[] {
    if (this.#keyIn(where) === null) return this.list().filter((row) => fits(row, where));
    const row = this.find(where);
    return row === null ? [] : [row];
  }

  /** The key that is meant, when all of its fields are asked for. */
  #keyIn(where: Where): string | null {
    const values: unknown[] = [];
    for (const name of this.key) {
      const asked = where.find(([field]) => field === name);
      if (asked === undefined) return null;
      values.push(asked[1]);
    }
    return identify(values);
  }

  has(row: Row): boolean {
    return this.#byKey.has(identifyRow(row, this.key));
  }

  size(): number {
    return this.#byKey.size;
  }

  /** Puts a row at the place of the one with its key, or at the end. */
  put(row: Row): void {
    this.#byKey.set(identifyRow(row, this.key), row);
    this.#list = null;
  }

  remove(row: Row): void {
    this.#byKey.delete(identifyRow(row, this.key));
    this.#list = null;
  }
}

function fits(row: Row, where: Where): boolean {
  return where.every(([field, value]) => isSameValue(row[field], value));
}

function isSameValue(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (a === null || b === null || a === undefined || b === undefined) return false;
  return typeof a !== 'object' && typeof b !== 'object' && String(a) === String(b);
}
