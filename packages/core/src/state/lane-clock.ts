/** The clock of a lane: real time, moved on, or standing still. What is dated goes by it; what waits goes by real time. */
export class LaneClock {
  #frozenAtMs: number | null = null;
  #aheadMs = 0;

  /** What the clock shows at a moment of real time. */
  now(realMs: number): number {
    return this.#frozenAtMs ?? realMs + this.#aheadMs;
  }

  /** Where it stands still, and how far it is ahead of real time otherwise. */
  read(): { readonly frozenAtMs: number | null; readonly aheadMs: number } {
    return { frozenAtMs: this.#frozenAtMs, aheadMs: this.#aheadMs };
  }

  freeze(atMs: number): void {
    this.#frozenAtMs = atMs;
  }

  /** A clock that stands still is set on, and goes on standing still. */
  advance(ms: number): void {
    if (this.#frozenAtMs === null) this.#aheadMs += ms;
    else this.#frozenAtMs += ms;
  }

  /** Real time again. */
  release(): void {
    this.#frozenAtMs = null;
    this.#aheadMs = 0;
  }
}

/** The clocks of lanes by their names: a lane has one clock, whichever service it calls. */
export class LaneClocks {
  readonly #clocks = new Map<string, LaneClock>();

  /** The one clock of a lane; made when it is first asked for. */
  get(lane: string): LaneClock {
    const known = this.#clocks.get(lane);
    if (known !== undefined) return known;
    const clock = new LaneClock();
    this.#clocks.set(lane, clock);
    return clock;
  }

  /** Lets go of clocks that show real time, of lanes that are gone. */
  drop(lane: string): void {
    this.#clocks.delete(lane);
  }
}
