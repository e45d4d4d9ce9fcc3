import type { ServiceView } from '@upsetter/core/wire';
import type { FailedHandshake } from '@upsetter/engine';

const MOST_KEPT = 10;

interface Refused {
  readonly firstMs: number;
  readonly latest: FailedHandshake;
  readonly times: number;
}

/** The latest connections that came to nothing, alike ones together. */
export class RefusedConnections {
  #refused: readonly Refused[] = [];

  add(failure: FailedHandshake): void {
    const isAlike = ({ latest }: Refused): boolean => latest.reason === failure.reason && latest.from === failure.from;
    const known = this.#refused.find(isAlike);
    const now = { firstMs: known?.firstMs ?? failure.atMs, latest: failure, times: (known?.times ?? 0) + 1 };
    this.#refused = [now, ...this.#refused.filter((own) => own !== known)].slice(0, MOST_KEPT);
  }

  view(): ServiceView['refusedConnections'] {
    return this.#refused.map(({ firstMs, latest: { atMs, from, reason }, times }) => ({
      at: new Date(atMs).toISOString(),
      firstAt: new Date(firstMs).toISOString(),
      from,
      reason,
      times,
    }));
  }
}
