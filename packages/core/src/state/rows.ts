import { identify, identifyRow, type RowKey } from './row-key.js';

/** One row of a dataset. Rows are never changed in place: a change puts another one there. */
export type Row = Readonly<Record<string, unknown>>;

/** What a row must show to be meant: field and value. A text and a number of the same digits are the same here, since paths are text. */
export type Where = readonly (readonly [field: string, value: unknown])[];

/** The rows of one dataset, in order of their arrival, found by their key at once and by other fields by looking through them. */
export interface Rows {
  readonly key: RowKey;
  /** All rows as one list, which stays as it is when rows change. */
  readonly list: () => readonly Row[];
  /** The row of a key, written as `identifyRow` writes it. */
  readonly at: (id: string) => Row | undefined;
  readonly size: () => number;
}

/** Rows that never change: what every lane starts with. */
export class StartingRows implements Rows {
  readonly key: RowKey;
  readonly #list: readonly Row[];
  /** Where in the list the row of a key stands. */
  readonly #places: ReadonlyMap<string, number>;

  /** Of several rows with the same key the last one counts, at the place of the first. */
  constructor(key: RowKey, rows: Iterable<Row>) {
    this.key = key;
    const places = new Map<string, number>();
    const list: Row[] = [];
    for (const row of rows) {
      const id = identifyRow(row, key);
      const place = places.get(id) ?? list.length;
      places.set(id, place);
      list[place] = row;
    }
    this.#list = list;
    this.#places = places;
  }

  list(): readonly Row[] {
    return this.#list;
  }

  at(id: string): Row | undefined {
    const place = this.#places.get(id);
    return place === undefined ? undefined : this.#list[place];
  }

  size(): number {
    return this.#list.length;
  }

  /** The list with other rows in the places of theirs, by their keys; null takes one away. */
  listWith(others: ReadonlyMap<string, Row | null>): Row[] {
    const list: (Row | null)[] = this.#list.slice();
    let isWhole = true;
    for (const [id, row] of others) {
      const place = this.#places.get(id);
      if (place === undefined) continue;
      list[place] = row;
      isWhole &&= row !== null;
    }
    return isWhole ? (list as Row[]) : list.filter((row) => row !== null);
  }
}

/**
 * The rows of one lane: what it changed, laid over what it started with, so that the first change of a large dataset
 * costs no more than the next one.
 */
export class LaneRows implements Rows {
  readonly key: RowKey;
  readonly #start: StartingRows;
  /** Rows of the start that are others now; null: gone. */
  readonly #changed = new Map<string, Row | null>();
  readonly #added = new Map<string, Row>();
  #size: number;
  #list: readonly Row[] | null = null;

  constructor(start: StartingRows) {
    this.key = start.key;
    this.#start = start;
    this.#size = start.size();
  }

  list(): readonly Row[] {
    if (this.#list !== null) return this.#list;
    const list = this.#start.listWith(this.#changed);
    for (const row of this.#added.values()) list.push(row);
    this.#list = list;
    return list;
  }

  at(id: string): Row | undefined {
    const added = this.#added.get(id);
    if (added !== undefined) return added;
    const changed = this.#changed.get(id);
    return changed === undefined ? this.#start.at(id) : (changed ?? undefined);
  }

  size(): number {
    return this.#size;
  }

  /** Puts a row at the place of the one with its key, or at the end. */
  put(row: Row): void {
    const id = identifyRow(row, this.key);
    const isKnown = this.at(id) !== undefined;
    if (isKnown && !this.#added.has(id)) this.#changed.set(id, row);
    else this.#added.set(id, row);
    if (!isKnown) this.#size++;
    this.#list = null;
  }

  remove(row: Row): void {
    const id = identifyRow(row, this.key);
    if (this.at(id) === undefined) return;
    if (!this.#added.delete(id)) this.#changed.set(id, null);
    this.#size--;
    this.#list = null;
  }
}

/** The first row that is meant; at once where its whole key is asked for. */
export function findRow(rows: Rows, where: Where): Row | null {
  const key = keyIn(rows.key, where);
  if (key === null) return rows.list().find((row) => fits(row, where)) ?? null;
  const row = rows.at(key);
  return row !== undefined && fits(row, where) ? row : null;
}

export function findRows(rows: Rows, where: Where): readonly Row[] {
  if (keyIn(rows.key, where) === null) return rows.list().filter((row) => fits(row, where));
  const row = findRow(rows, where);
  return row === null ? [] : [row];
}

/** The key that is meant, when all of its fields are asked for. */
function keyIn(key: RowKey, where: Where): string | null {
  const values: unknown[] = [];
  for (const name of key) {
    const asked = where.find(([field]) => field === name);
    if (asked === undefined) return null;
    values.push(asked[1]);
  }
  return identify(values);
}

function fits(row: Row, where: Where): boolean {
  return where.every(([field, value]) => isSameValue(row[field], value));
}

/** Whether two values of fields are the same; a text and a number of the same digits are. */
export function isSameValue(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (a === null || b === null || a === undefined || b === undefined) return false;
  return typeof a !== 'object' && typeof b !== 'object' && String(a) === String(b);
}
