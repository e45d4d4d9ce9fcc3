import { type CompiledService, type CompiledUpset, type LaneClocks, Lanes } from '@upsetter/core';
import {
  createServiceKeys,
  createUpstream,
  type LiveService,
  type MockListener,
  type RelayedCall,
  type StrayRelay,
} from '@upsetter/engine';
import type { StoredRevision } from '@upsetter/store';
import { findKeptRows, type KeptRows } from './kept-rows.js';
import { RefusedConnections } from './refused-connections.js';

/** An upset of a mock: in the file or switched on while running, in force or calm. */
export interface MockUpset {
  readonly compiled: CompiledUpset;
  readonly from: 'file' | 'running';
  readonly inForce: boolean;
}

const UPSTREAM_TIMEOUT_MS = 120_000;
const CLOSE_AFTER_MS = 10_000;

/** Told of a stray that was relayed and is to be recorded. */
export type OnStray = (service: string, upstream: string, call: RelayedCall) => void;

/** One running mock: its saved file, its compiled table, its listener and what upsets it now. */
export class Mock {
  readonly name: string;
  saved: StoredRevision;
  live: LiveService;
  listener: MockListener | null = null;
  trouble: string | null = null;
  readonly refused = new RefusedConnections();
  /** What lanes kept of rows that the last save changed. */
  keptRows: readonly KeptRows[] = [];
  /** What was switched by hand, by name of the upset; stays over saves. */
  readonly #switched = new Map<string, boolean>();
  readonly #running = new Map<string, CompiledUpset>();
  /** The upsets in force, as they are written. */
  readonly #inForce = new Map<string, string>();

  readonly #onStray: OnStray;
  #relay: StrayRelay | null = null;
  #relayKey = '';

  readonly #clocks: LaneClocks;
  readonly #keys = createServiceKeys();

  constructor(saved: StoredRevision, compiled: CompiledService, onStray: OnStray, clocks: LaneClocks) {
    this.name = saved.service;
    this.#clocks = clocks;
    this.#onStray = onStray;
    this.saved = saved;
    this.live = this.#makeLive(compiled, this.#makeLanes(compiled));
  }

  /** Swaps in a saved change: calls in flight finish with the table they began with, the next one sees the new. */
  replace(saved: StoredRevision, compiled: CompiledService, reset: boolean): void {
    const isKept = !reset && compiled.definition.seed === this.live.compiled.definition.seed;
    this.keptRows = isKept ? findKeptRows(this.live.compiled, compiled, this.live.lanes) : [];
    this.saved = saved;
    this.live = this.#makeLive(compiled, isKept ? this.live.lanes : this.#makeLanes(compiled));
  }

  #makeLanes({ definition: { seed, service } }: CompiledService): Lanes {
    return new Lanes(seed ?? service, this.#clocks, this.#keys, Date.now);
  }

  upsets(): readonly MockUpset[] {
    return this.#listUpsets(this.live.compiled);
  }

  /** Adds an upset (or replaces the one of the same name) and switches it on. */
  putUpset(upset: CompiledUpset): void {
    this.#running.set(upset.name, upset);
    this.#switched.set(upset.name, true);
    this.#inForce.delete(upset.name);
    this.#refresh();
  }

  /** Switches an upset on or off; false when there is none of that name. */
  switchUpset(name: string, inForce: boolean): boolean {
    if (!this.upsets().some((upset) => upset.compiled.name === name)) return false;
    this.#switched.set(name, inForce);
    this.#refresh();
    return true;
  }

  /** Everything calm: all are switched off, and stay listed, so that they can be switched on again. */
  calm(): number {
    const inForce = this.upsets().filter((upset) => upset.inForce);
    for (const { compiled, from } of inForce) if (from === 'file') this.#switched.set(compiled.name, false);
    for (const name of this.#running.keys()) this.#switched.set(name, false);
    this.#refresh();
    return inForce.length;
  }

  #refresh(): void {
    this.live = this.#makeLive(this.live.compiled, this.live.lanes);
  }

  #makeLive(compiled: CompiledService, lanes: Lanes): LiveService {
    const upsets = this.#listUpsets(compiled)
      .filter((upset) => upset.inForce)
      .map((upset) => upset.compiled);
    this.#beginNew(upsets, lanes);
    return {
      compiled,
      version: compiled.definition.version ?? null,
      revision: this.saved.revision,
      lanes,
      upsets: upsets.length > 0 ? upsets : null,
      ...this.#relayFor(compiled),
    };
  }

  /** What was not in force before, or was another upset, counts from now on. */
  #beginNew(upsets: readonly CompiledUpset[], lanes: Lanes): void {
    const before = new Map(this.#inForce);
    this.#inForce.clear();
    for (const { name, definition } of upsets) {
      const text = JSON.stringify(definition);
      this.#inForce.set(name, text);
      if (before.get(name) !== text) lanes.beginUpset(name);
    }
  }

  /** Where strays and relayed answers go, kept as long as upstream and mode stay: its connections are worth keeping. */
  #relayFor({
    definition: { strays = 'answer', upstream },
  }: CompiledService): Pick<LiveService, 'strays' | 'upstream'> {
    const relay = this.#openRelay(strays, upstream);
    return { strays: strays === 'answer' ? null : relay, upstream: relay?.upstream ?? null };
  }

  #openRelay(strays: string, upstream: string | undefined): StrayRelay | null {
    const key = `${strays} ${upstream}`;
    if (key === this.#relayKey) return this.#relay;
    this.closeRelay();
    this.#relayKey = key;
    if (upstream === undefined) return null;
    const onHeard = (call: RelayedCall): void => this.#onStray(this.name, upstream, call);
    this.#relay = {
      upstream: createUpstream({ url: upstream, authority: null, timeoutMs: UPSTREAM_TIMEOUT_MS }),
      onHeard: strays === 'record' ? onHeard : null,
    };
    return this.#relay;
  }

  /** Lets the connections to an upstream go, once calls in flight had their time. */
  closeRelay(): void {
    const { upstream } = this.#relay ?? {};
    if (upstream !== undefined) setTimeout(() => upstream.close(), CLOSE_AFTER_MS).unref();
    this.#relay = null;
    this.#relayKey = '';
  }

  /** In file order, one of the same name that was put while running in its place; then the others put while running. */
  #listUpsets(compiled: CompiledService): MockUpset[] {
    const inFile = compiled.upsets.map((upset) =>
      this.#stateOf(this.#running.get(upset.name) ?? upset, this.#running.has(upset.name) ? 'running' : 'file'),
    );
    const names = new Set(compiled.upsets.map((upset) => upset.name));
    const added = [...this.#running.values()]
      .filter((upset) => !names.has(upset.name))
      .map((upset) => this.#stateOf(upset, 'running'));
    return [...inFile, ...added];
  }

  #stateOf(compiled: CompiledUpset, from: 'file' | 'running'): MockUpset {
    return { compiled, from, inForce: this.#switched.get(compiled.name) ?? compiled.definition.calm !== true };
  }
}
