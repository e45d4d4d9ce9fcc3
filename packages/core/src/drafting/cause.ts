import type { Heard } from './heard.js';
import { eachLeaf } from './leaves.js';

/** Finds the writes that made a difference. Made once for a session: what a write mentions is read once. */
export interface CauseFinder {
  /** The write in `from <= position < until` that most likely did it; null when there is none. `key`: the value that names the thing. */
  readonly between: (from: number, until: number, key: string | null, word: string) => Heard | null;
  /** All writes in `from <= position < until` that mention the key, in order. */
  readonly allBetween: (from: number, until: number, key: string) => readonly Heard[];
  /** The last write before a position that names the key. */
  readonly lastBefore: (position: number, key: string | null) => Heard | null;
  readonly mentions: (write: Heard, key: string) => boolean;
}

/** Looking further back than this finds nothing that still matters. */
const MOST_LOOKED_AT = 300;

export function createCauseFinder(session: readonly Heard[]): CauseFinder {
  const writes = session.filter((heard) => heard.isWrite && heard.isSuccess);
  const said = new Map<Heard, ReadonlySet<string>>();
  const mentionsOf = (write: Heard): ReadonlySet<string> => {
    const known = said.get(write);
    if (known !== undefined) return known;
    const values = new Set<string>(write.segments);
    eachLeaf(write.sentJson, (value) => values.add(String(value)));
    eachLeaf(write.answerJson, (value) => values.add(String(value)));
    for (const part of write.location?.split('/') ?? []) values.add(part);
    said.set(write, values);
    return values;
  };
  const score = (write: Heard, key: string | null, word: string): number => {
    const own = key === null ? 0 : write.segments.includes(key) ? 4 : mentionsOf(write).has(key) ? 2 : 0;
    return own + (write.segments.includes(word) ? 1 : 0);
  };
  return {
    between: (from, until, key, word) => {
      let best: Heard | null = null;
      let bestScore = -1;
      const first = indexFrom(writes, from);
      const last = indexFrom(writes, until);
      for (const write of writes.slice(Math.max(first, last - MOST_LOOKED_AT), last)) {
        const own = score(write, key, word);
        if (own < bestScore) continue;
        best = write;
        bestScore = own;
      }
      return best;
    },
    allBetween: (from, until, key) => {
      const last = indexFrom(writes, until);
      const first = Math.max(indexFrom(writes, from), last - MOST_LOOKED_AT);
      return writes.slice(first, last).filter((write) => mentionsOf(write).has(key));
    },
    lastBefore: (position, key) => {
      const last = indexFrom(writes, position);
      const near = writes.slice(Math.max(0, last - MOST_LOOKED_AT), last).reverse();
      return near.find((write) => key === null || mentionsOf(write).has(key)) ?? null;
    },
    mentions: (write, key) => mentionsOf(write).has(key),
  };
}

function indexFrom(writes: readonly Heard[], position: number): number {
  let low = 0;
  let high = writes.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((writes[middle]?.position ?? 0) >= position) high = middle;
    else low = middle + 1;
  }
  return low;
}
