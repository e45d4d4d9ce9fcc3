import type { DelayDefinition } from '../definition/delay.js';
import { renderDuration } from '../definition/duration.js';
import type { HeardOperation } from './session.js';

/** Below this a delay says nothing about the real service. */
const LEAST_MS = 5;

/** Fewer calls say nothing of how latencies are spread. */
const LEAST_CALLS = 5;
/** Less spread than this is as good as none. */
const LEAST_SPREAD = 1.25;

/** The latency heard of each operation as an upset that is calm: ready to be switched on. */
export function draftLatencies(operations: readonly HeardOperation[]): Record<string, unknown>[] {
  return operations.flatMap(({ name, heard }) => {
    const times = heard.map(({ exchange }) => exchange.firstByteMs || exchange.tookMs).sort((a, b) => a - b);
    const median = Math.round(quantile(times, 0.5));
    return median < LEAST_MS
      ? []
      : [{ upset: `as slow as heard: ${name}`, of: [name], delay: delayOf(times, median), calm: true }];
  });
}

function delayOf(times: readonly number[], median: number): DelayDefinition {
  const p95 = Math.round(quantile(times, 0.95));
  const isSpread = times.length >= LEAST_CALLS && p95 >= median * LEAST_SPREAD;
  return isSpread ? { median: renderDuration(median), p95: renderDuration(p95) } : renderDuration(median);
}

function quantile(sorted: readonly number[], share: number): number {
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0;
}
