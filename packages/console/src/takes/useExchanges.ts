import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { ExchangeSummary, TakeSummary } from '@upsetter/core/wire';
import { client } from '../api/client.js';

const PAGE = 1000;

/** All exchanges of a take, read again when there are more. */
export function useExchanges(
  name: string,
  take: TakeSummary | undefined,
): { readonly exchanges: readonly ExchangeSummary[] } {
  const { data } = useQuery({
    queryKey: ['exchanges', name, take?.exchanges ?? 0],
    queryFn: () => readAll(name),
    enabled: take !== undefined,
    placeholderData: keepPreviousData,
  });
  return { exchanges: data ?? NONE };
}

const NONE: readonly ExchangeSummary[] = [];

async function readAll(name: string): Promise<readonly ExchangeSummary[]> {
  const all: ExchangeSummary[] = [];
  for (let after: number | null = -1; after !== null; ) {
    const page = await client.listExchanges(name, after, PAGE);
    all.push(...page.exchanges);
    after = page.next;
  }
  return all;
}
