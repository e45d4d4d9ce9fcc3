import { AppError, type CallRecord } from '@upsetter/core';
import type { CallLog } from '@upsetter/engine';
import { type CallFilter, type CallRepository, type CallWriter, isWanted } from '@upsetter/store';
import { CallChanges } from './call-changes.js';
import { CallRing } from './call-ring.js';
import { MinuteCounts } from './minute-counts.js';

/** The most calls one check or one search of the store goes through. */
const MOST_SEARCHED = 200_000;
const PAGE = 1_000;
const FLUSH_MS = 5_000;

/** Calls kept in memory: all there is without a store; with one, what is looked at most. Fewer objects that live on cost less time. */
const KEPT_ALONE = 20_000;
const KEPT_BESIDE_STORE = 2_000;

/** The call log of the service: the latest calls in memory, all of them in the store. */
export class ServiceCallLog implements CallLog {
  readonly changes = new CallChanges();
  readonly lastMinute = new MinuteCounts();
  readonly #ring: CallRing;
  readonly #store: CallRepository | null;
  readonly #writer: CallWriter | null;

  /** `store` and `writer`: where calls are kept for longer than here; null for neither. `keptCalls`: how many here; null: as usual. */
  constructor(store: CallRepository | null, writer: CallWriter | null, keptCalls: number | null) {
    this.#ring = new CallRing(keptCalls ?? (store === null ? KEPT_ALONE : KEPT_BESIDE_STORE));
    this.#store = store;
    this.#writer = writer;
  }

  received(record: CallRecord): void {
    this.#ring.add(record);
    this.#writer?.add(record);
    this.changes.add(record);
  }

  completed(record: CallRecord): void {
    this.#ring.settle(record);
    this.lastMinute.add(record.service, record.isStray, record.request.receivedAtMs);
    this.changes.add(record);
  }

  /** A complete call that grew afterwards: its callbacks. */
  changed(record: CallRecord): void {
    this.#writer?.change(record);
    this.changes.add(record);
  }

  /** Newest first: from memory as far as it reaches, then from the store. */
  async list(filter: CallFilter): Promise<readonly CallRecord[]> {
    const recent = this.#ring
      .newestFirst()
      .filter((record) => isWanted(record, filter))
      .slice(0, filter.limit);
    if (recent.length === filter.limit || this.#store === null) return recent;
    const before =
      [recent.at(-1)?.request.id ?? filter.before, this.#ring.oldestId]
        .filter((id) => id !== null && id !== undefined)
        .sort()[0] ?? null;
    try {
      const older = await this.#store.list({ ...filter, before, limit: filter.limit - recent.length });
      return [...recent, ...older];
    } catch (error) {
      if (recent.length > 0 && error instanceof AppError && error.code === 'store-unavailable') return recent;
      throw error;
    }
  }

  /** One call by its id, or by the end or beginning of it when that is enough. Fails with `call-unknown` or `call-ambiguous`. */
  async find(id: string): Promise<CallRecord> {
    const exact = this.#ring.get(id);
    if (exact !== undefined) return exact;
    if (UUID.test(id)) {
      const stored = (await this.#store?.find(id)) ?? null;
      if (stored !== null) return stored;
      throw new AppError('call-unknown', `there is no call ${id}`);
    }
    const kept = this.#ring.newestFirst().filter(({ request }) => request.id.startsWith(id) || request.id.endsWith(id));
    const alike = kept.length > 0 ? kept : ((await this.#store?.findAlike(id)) ?? []);
    const [first, second] = alike;
    if (first === undefined) throw new AppError('call-unknown', `no call begins or ends with ${id}`);
    if (second !== undefined) throw new AppError('call-ambiguous', `several calls begin or end with ${id}`);
    return first;
  }

  /** The calls of a lane since a time, oldest first: every one received before this moment. Fails with `evidence-gone`. */
  async since(lane: string, sinceMs: number): Promise<readonly CallRecord[]> {
    const recent = this.#ring
      .oldestFirst()
      .filter((record) => record.request.lane === lane && record.request.receivedAtMs >= sinceMs);
    if (this.#ring.lastEvictedMs < sinceMs || this.#ring.lastEvictedMs === 0) return recent;
    if (this.#store === null || this.#writer === null)
      throw new AppError('evidence-gone', 'the calls this check needs had to make room for later ones');
    const unwritten = await this.#writer.drain(FLUSH_MS);
    if (unwritten > 0)
      throw new AppError('evidence-gone', `the store is away and ${unwritten} calls are not written yet`);
    return [...(await this.#older(this.#store, lane, sinceMs)), ...recent];
  }

  async #older(store: CallRepository, lane: string, sinceMs: number): Promise<CallRecord[]> {
    const older: CallRecord[] = [];
    let before = this.#ring.oldestId;
    while (older.length < MOST_SEARCHED) {
      const page = await store.list({
        service: null,
        operation: null,
        lane,
        straysOnly: false,
        findingsOnly: false,
        before,
        limit: PAGE,
      });
      const wanted = page.filter((record) => record.request.receivedAtMs >= sinceMs);
      older.push(...wanted);
      if (wanted.length < PAGE) return older.reverse();
      before = page.at(-1)?.request.id ?? before;
    }
    throw new AppError('evidence-gone', `there are more than ${MOST_SEARCHED} calls since then`);
  }

  /** The latest call that carries a header with this value; for calls that the service itself has sent. */
  findSent(header: string, value: string): CallRecord | undefined {
    return this.#ring.newestFirst().find((record) => record.request.header(header) === value);
  }
}

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/;
