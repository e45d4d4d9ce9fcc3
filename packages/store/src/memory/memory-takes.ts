import type { Exchange } from '@upsetter/core';
import type { StoredTake, TakeRepository } from '../store.js';

/** Takes that live as long as the process. */
export function createMemoryTakes(): TakeRepository {
  const takes = new Map<string, StoredTake>();
  const heard = new Map<string, Map<number, Exchange>>();
  const of = (take: string): Map<number, Exchange> => {
    const own = heard.get(take) ?? new Map<number, Exchange>();
    heard.set(take, own);
    return own;
  };
  return {
    list: async () => [...takes.values()].sort((a, b) => b.startedAtMs - a.startedAtMs),
    save: async (take) => {
      takes.set(take.name, take);
    },
    remove: async (name) => {
      takes.delete(name);
      heard.delete(name);
    },
    write: async (take, exchanges) => {
      for (const exchange of exchanges) of(take).set(exchange.index, exchange);
    },
    exchanges: async (take, after, limit) =>
      [...of(take).values()]
        .filter(({ index }) => index > after)
        .sort((a, b) => a.index - b.index)
        .slice(0, limit),
    counts: async () => new Map([...heard].map(([take, own]) => [take, own.size])),
  };
}
