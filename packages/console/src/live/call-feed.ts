import type { CallSummary } from '@upsetter/core/wire';

const KEPT = 300;

export interface FeedState {
  /** Newest first. */
  readonly calls: readonly CallSummary[];
  readonly connected: boolean;
  /** Grows whenever calls were missed: lists are then read anew. */
  readonly gaps: number;
}

/** The calls as they come, kept outside of React; the browser takes a lost stream up again where it broke off. */
export function createCallFeed(url: string) {
  let state: FeedState = { calls: [], connected: false, gaps: 0 };
  const listeners = new Set<() => void>();
  let source: EventSource | null = null;

  const set = (next: Partial<FeedState>): void => {
    state = { ...state, ...next };
    for (const listener of listeners) listener();
  };
  const open = (): void => {
    source = new EventSource(url);
    source.addEventListener('open', () => set({ connected: true }));
    source.addEventListener('error', () => set({ connected: false }));
    source.addEventListener('calls', (event) => {
      const { calls, missed } = JSON.parse((event as MessageEvent<string>).data) as {
        calls: CallSummary[];
        missed: number;
      };
      set({ calls: mergeCalls(state.calls, calls), connected: true, gaps: missed > 0 ? state.gaps + 1 : state.gaps });
    });
  };
  return {
    subscribe: (listener: () => void) => {
      if (listeners.size === 0) open();
      listeners.add(listener);
      return () => {
        listeners.delete(listener);
        if (listeners.size === 0) source?.close();
      };
    },
    read: () => state,
    /** Fills in what was there before the stream began. */
    prime: (calls: readonly CallSummary[]) => set({ calls: mergeCalls(calls, state.calls) }),
  };
}

/** Later states of the same call replace earlier ones; newest call first. */
export function mergeCalls(known: readonly CallSummary[], changed: readonly CallSummary[]): CallSummary[] {
  const byId = new Map(known.map((call) => [call.id, call]));
  for (const call of changed) byId.set(call.id, call);
  return [...byId.values()].sort((a, b) => (a.id < b.id ? 1 : -1)).slice(0, KEPT);
}
