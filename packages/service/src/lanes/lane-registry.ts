import { AppError, type Lane, type LaneClocks } from '@upsetter/core';
import type { ClockChange, LaneView } from '@upsetter/core/wire';
import type { CallbackSender } from '@upsetter/engine';
import type { MockRegistry } from '../mocks/mock-registry.js';

/** A lane that nobody calls is let go after this long; `main` stays. */
const IDLE_MS = 6 * 3_600_000;
const LOOK_EVERY_MS = 60_000;

/** The lanes of all services: a lane is one world, whichever of them it calls. */
export class LaneRegistry {
  readonly #mocks: MockRegistry;
  readonly #clocks: LaneClocks;
  readonly #callbacks: CallbackSender;
  readonly #resetAtMs = new Map<string, number>();
  readonly #timer: NodeJS.Timeout;

  constructor(mocks: MockRegistry, clocks: LaneClocks, callbacks: CallbackSender) {
    this.#mocks = mocks;
    this.#clocks = clocks;
    this.#callbacks = callbacks;
    this.#timer = setInterval(() => this.expire(Date.now() - IDLE_MS), LOOK_EVERY_MS).unref();
  }

  /** Every lane that is there, `main` first, then the one called last first. */
  list(): LaneView[] {
    const byName = new Map<string, { service: string; lane: Lane }[]>();
    for (const mock of this.#mocks.list())
      for (const lane of mock.live.lanes.list())
        byName.set(lane.name, [...(byName.get(lane.name) ?? []), { service: mock.name, lane }]);
    const views = [...byName].map(([name, own]) => this.#view(name, own));
    const rank = (view: LaneView): string => (view.name === 'main' ? '\uffff' : (view.lastCallAt ?? ''));
    return views.sort((a, b) => (rank(a) < rank(b) ? 1 : -1));
  }

  get(name: string): LaneView {
    const found = this.list().find((view) => view.name === name);
    if (found === undefined)
      throw new AppError('lane-unknown', `there is no lane ${name}: one is made by its first call`);
    return found;
  }

  /** State, rows, turns, counters, draws and clock as they were at the start; callbacks that wait are given up. Checks look from now on. */
  async reset(name: string): Promise<void> {
    this.get(name);
    for (const mock of this.#mocks.list()) mock.live.lanes.reset(name);
    this.#clocks.get(name).release();
    this.#resetAtMs.set(name, Date.now());
    await this.#callbacks.stop(null, name);
  }

  /** As a reset, and nothing of the lane is kept. `main` cannot be dropped. */
  async drop(name: string): Promise<void> {
    if (name === 'main') throw new AppError('wrong-use', 'the lane main is always there: reset it');
    this.get(name);
    await this.#letGo(name);
  }

  /** A lane may be given its time before its first call. */
  setClock(name: string, change: ClockChange): LaneView['clock'] {
    const clock = this.#clocks.get(name);
    if (change.release === true) clock.release();
    if (change.freeze !== undefined)
      clock.freeze(change.freeze === true ? clock.now(Date.now()) : Date.parse(change.freeze));
    if (change.advanceMs !== undefined) clock.advance(change.advanceMs);
    return viewClock(clock);
  }

  /** When a lane was reset last; 0: never. */
  resetAt(name: string): number {
    return this.#resetAtMs.get(name) ?? 0;
  }

  /** Lanes that were not called since are let go. */
  expire(beforeMs: number): void {
    for (const { name, lastCallAt } of this.list()) {
      if (name === 'main' || (lastCallAt !== null && Date.parse(lastCallAt) >= beforeMs)) continue;
      void this.#letGo(name);
    }
  }

  async #letGo(name: string): Promise<void> {
    for (const mock of this.#mocks.list()) mock.live.lanes.drop(name);
    this.#clocks.drop(name);
    this.#resetAtMs.delete(name);
    await this.#callbacks.stop(null, name);
  }

  stop(): void {
    clearInterval(this.#timer);
  }

  #view(name: string, own: readonly { readonly service: string; readonly lane: Lane }[]): LaneView {
    const lastCallMs = Math.max(...own.map(({ lane }) => lane.lastCallMs));
    const resetMs = this.resetAt(name);
    return {
      name,
      calls: own.reduce((sum, { lane }) => sum + lane.calls, 0),
      lastCallAt: lastCallMs === 0 ? null : new Date(lastCallMs).toISOString(),
      resetAt: resetMs === 0 ? null : new Date(resetMs).toISOString(),
      clock: viewClock(this.#clocks.get(name)),
      services: own
        .filter(({ lane }) => lane.calls > 0)
        .map(({ service, lane }) => ({ service, calls: lane.calls, ...lane.changed() })),
    };
  }
}

function viewClock(clock: ReturnType<LaneClocks['get']>): LaneView['clock'] {
  const { frozenAtMs, aheadMs } = clock.read();
  return {
    now: new Date(clock.now(Date.now())).toISOString(),
    isFrozen: frozenAtMs !== null,
    aheadMs: frozenAtMs === null ? aheadMs : 0,
  };
}
