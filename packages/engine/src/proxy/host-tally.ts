/** What became of one host's connections and calls at a proxy. */
export interface HostTally {
  /** `tide.harbour.test:443` */
  readonly host: string;
  /** Calls heard. */
  readonly heard: number;
  /** Connections and calls passed on unheard. */
  readonly untouched: number;
  /** Connections that ended while TLS was opened, or that the host did not take. */
  readonly refused: number;
  /** Why the last of these ended. */
  readonly trouble: string | null;
}

// Enough for any session; a caller cannot make the list grow for ever.
const MOST_HOSTS = 200;

/** Counts by host, in the order in which hosts were first asked for. */
export class HostTallies {
  readonly #tallies = new Map<string, HostTally>();

  add(host: string, kind: 'heard' | 'untouched' | 'refused', trouble: string | null = null): void {
    const known = this.of(host);
    if (this.#tallies.size >= MOST_HOSTS && !this.#tallies.has(host)) return;
    this.#tallies.set(host, { ...known, [kind]: known[kind] + 1, trouble: trouble ?? known.trouble });
  }

  of(host: string): HostTally {
    return this.#tallies.get(host) ?? { host, heard: 0, untouched: 0, refused: 0, trouble: null };
  }

  list(): readonly HostTally[] {
    return [...this.#tallies.values()];
  }
}
