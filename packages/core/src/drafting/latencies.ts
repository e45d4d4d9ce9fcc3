import type { HeardOperation } from './session.js';

/** Below this a delay says nothing about the real service. */
const LEAST_MS = 5;

/** The latency heard of each operation as an upset that is calm: ready to be switched on. */
export function draftLatencies(operations: readonly HeardOperation[]): Record<string, unknown>[] {
  return operations.flatMap(({ name, heard }) => {
    const times = heard.map(({ exchange }) => exchange.firstByteMs || exchange.tookMs).sort((a, b) => a - b);
    const median = Math.round(times[Math.floor(times.length / 2)] ?? 0);
    return median < LEAST_MS
      ? []
      : [{ upset: `as slow as heard: ${name}`, of: [name], delay: `${median}ms`, calm: true }];
  });
}
