import type { Exchange } from '@upsetter/core';

const STEP_MS = 20;
const NOTE_LENGTH = 1_500;
const RECENT = 400;
const PAGE = 20;

interface Row {
  readonly id: string;
  readonly name: string;
  readonly [field: string]: unknown;
}

/** A long session with three kinds of things: created, read, changed, finished, removed, listed. The same each time; some 2 kB an exchange. */
export function makeLongSession(count: number): Exchange[] {
  return new LongSession(count).play();
}

class LongSession {
  readonly #exchanges: Exchange[] = [];
  readonly #rows = new Map<string, Map<string, Row>>();
  readonly #keys: (readonly [kind: string, id: string])[] = [];
  readonly #count: number;
  #atMs = Date.UTC(2026, 2, 2);
  #seed = 7;

  constructor(count: number) {
    this.#count = count;
  }

  play(): Exchange[] {
    while (this.#exchanges.length < this.#count) {
      if (this.#keys.length < 5 || this.#draw() < 0.25) this.#create();
      else this.#work();
    }
    return this.#exchanges;
  }

  #create(): void {
    const kind = ['bookings', 'crews', 'parcels'][Math.floor(this.#draw() * 3)] ?? 'bookings';
    const id = this.#uuid();
    const sent = { name: `n${this.#number()}`, weight: Math.floor(this.#draw() * 1000), note: 'x'.repeat(NOTE_LENGTH) };
    const row = { id, ...sent, state: 'new', at: new Date(this.#atMs).toISOString() };
    this.#of(kind).set(id, row);
    this.#keys.push([kind, id]);
    this.#hear('POST', `/${kind}`, sent, 201, row);
  }

  #work(): void {
    const from = Math.max(0, this.#keys.length - RECENT);
    const [kind, id] = this.#keys[from + Math.floor(this.#draw() * (this.#keys.length - from))] ?? ['bookings', ''];
    const row = this.#of(kind).get(id);
    const what = this.#draw();
    if (row === undefined) this.#hear('GET', `/${kind}/${id}`, undefined, 404, { error: `no ${id}` });
    else if (what < 0.5) this.#hear('GET', `/${kind}/${id}`, undefined, 200, row);
    else if (what < 0.75) this.#change(kind, row, 'PATCH', '', { name: `m${this.#number()}` });
    else if (what < 0.88) this.#change(kind, row, 'POST', '/finish', { state: 'done' });
    else if (what < 0.94) {
      this.#of(kind).delete(id);
      this.#hear('DELETE', `/${kind}/${id}`, undefined, 204, undefined);
    } else this.#list(kind);
  }

  #change(kind: string, row: Row, method: string, path: string, changes: Record<string, unknown>): void {
    const changed = { ...row, ...changes };
    this.#of(kind).set(row.id, changed);
    this.#hear(method, `/${kind}/${row.id}${path}`, method === 'PATCH' ? changes : undefined, 200, changed);
  }

  #list(kind: string): void {
    const all = [...this.#of(kind).values()].map(({ id, name, state }) => ({ id, name, state }));
    this.#hear('GET', `/${kind}`, undefined, 200, { items: all.slice(0, PAGE), total: all.length }, [
      ['limit', `${PAGE}`],
    ]);
  }

  #hear(
    method: string,
    path: string,
    sent: unknown,
    status: number,
    answer: unknown,
    query: Exchange['query'] = [],
  ): void {
    this.#exchanges.push({
      index: this.#exchanges.length,
      startedAtMs: this.#atMs,
      firstByteMs: 3,
      tookMs: 4,
      method,
      origin: 'http://127.0.0.1:4691',
      path,
      query,
      requestHeaders: ['content-type', 'application/json'],
      requestBody: sent === undefined ? null : JSON.stringify(sent),
      status,
      responseHeaders: answer === undefined ? [] : ['content-type', 'application/json'],
      contentType: answer === undefined ? '' : 'application/json',
      body: answer === undefined ? null : { kind: 'text', content: JSON.stringify(answer) },
      trouble: null,
    });
    this.#atMs += STEP_MS;
  }

  #of(kind: string): Map<string, Row> {
    const rows = this.#rows.get(kind) ?? new Map<string, Row>();
    this.#rows.set(kind, rows);
    return rows;
  }

  #number(): number {
    return Math.floor(this.#draw() * 1_000_000);
  }

  #uuid(): string {
    return 'xxxxxxxx-xxxx-4xxx-8xxx-xxxxxxxxxxxx'.replaceAll('x', () => Math.floor(this.#draw() * 16).toString(16));
  }

  /** Mulberry32: small, and long enough a period. */
  #draw(): number {
    this.#seed = (this.#seed + 0x6d2b79f5) | 0;
    let t = Math.imul(this.#seed ^ (this.#seed >>> 15), 1 | this.#seed);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  }
}
