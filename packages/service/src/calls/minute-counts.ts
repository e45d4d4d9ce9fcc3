const SECONDS = 60;
const MS_PER_SECOND = 1000;

export interface MinuteCount {
  readonly calls: number;
  readonly strays: number;
}

/** Calls of one service in each of the last 60 seconds: one bucket a second, used again a minute later. */
class Buckets {
  readonly second = new Array<number>(SECONDS).fill(-1);
  readonly calls = new Array<number>(SECONDS).fill(0);
  readonly strays = new Array<number>(SECONDS).fill(0);
}

/** How many calls, and strays, each service had in the last minute; costs the same however many there are. */
export class MinuteCounts {
  readonly #services = new Map<string, Buckets>();

  add(service: string, isStray: boolean, nowMs: number): void {
    const buckets = this.#services.get(service) ?? this.#begin(service);
    const second = Math.floor(nowMs / MS_PER_SECOND);
    const at = second % SECONDS;
    if (buckets.second[at] !== second) {
      buckets.second[at] = second;
      buckets.calls[at] = 0;
      buckets.strays[at] = 0;
    }
    buckets.calls[at] = (buckets.calls[at] ?? 0) + 1;
    if (isStray) buckets.strays[at] = (buckets.strays[at] ?? 0) + 1;
  }

  of(service: string, nowMs: number): MinuteCount {
    const buckets = this.#services.get(service);
    const oldest = Math.floor(nowMs / MS_PER_SECOND) - SECONDS;
    let calls = 0;
    let strays = 0;
    for (let at = 0; at < SECONDS; at++) {
      if (buckets === undefined || (buckets.second[at] ?? -1) <= oldest) continue;
      calls += buckets.calls[at] ?? 0;
      strays += buckets.strays[at] ?? 0;
    }
    return { calls, strays };
  }

  #begin(service: string): Buckets {
    const buckets = new Buckets();
    this.#services.set(service, buckets);
    return buckets;
  }
}
