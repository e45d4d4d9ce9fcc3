import { useInfiniteQuery } from '@tanstack/react-query';
import type { CallSummary } from '@upsetter/core/wire';
import { useCallback, useEffect, useMemo } from 'react';
import { type CallSelection, callsQuery } from '../api/queries.js';
import { useCallFeed } from '../live/useCallFeed.js';

export interface CallListState {
  readonly calls: readonly CallSummary[];
  readonly isEmpty: boolean;
  readonly error: Error | null;
  readonly readMore: () => void;
}

/** The calls of a selection, newest first: pages from the service, with what the live feed has learnt since. */
export function useCallList(selection: CallSelection): CallListState {
  const feed = useCallFeed();
  const { data, error, hasNextPage, isFetchingNextPage, fetchNextPage, refetch } = useInfiniteQuery(
    callsQuery(selection),
  );
  useEffect(() => {
    if (feed.gaps > 0) void refetch();
  }, [feed.gaps, refetch]);
  const calls = useMemo(() => {
    const read = data?.pages.flatMap((page) => page.calls) ?? [];
    return joinCalls(
      read,
      feed.calls.filter((call) => isSelected(call, selection)),
    );
  }, [data, feed.calls, selection]);
  const readMore = useCallback(() => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [hasNextPage, isFetchingNextPage, fetchNextPage]);
  return { calls, isEmpty: data !== undefined && calls.length === 0, error, readMore };
}

function isSelected(call: CallSummary, { service, strays, findings }: CallSelection): boolean {
  const isOfService = service === undefined || call.service === service;
  return isOfService && (strays !== true || call.stray) && (findings !== true || call.findings > 0);
}

/** Live states over read ones; calls older than the read pages are left to the next page. */
function joinCalls(read: readonly CallSummary[], live: readonly CallSummary[]): CallSummary[] {
  const oldest = read.at(-1)?.id ?? '';
  const byId = new Map(read.map((call) => [call.id, call]));
  for (const call of live) if (call.id >= oldest) byId.set(call.id, call);
  return [...byId.values()].sort((a, b) => (a.id < b.id ? 1 : -1));
}
