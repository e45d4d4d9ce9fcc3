import type { CallSummary } from '@upsetter/core/wire';

/** Whether a call is the question of a browser before the one that is meant, answered by the mock itself. */
export function isPreflight({ method, answeredBy, stray }: CallSummary): boolean {
  return method === 'OPTIONS' && answeredBy === 'nobody' && !stray;
}

/** The calls without their preflights. */
export function foldPreflights(calls: readonly CallSummary[]): readonly CallSummary[] {
  return calls.some(isPreflight) ? calls.filter((call) => !isPreflight(call)) : calls;
}
