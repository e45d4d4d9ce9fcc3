import type { DelayDefinition } from './delay.js';

/** `800ms`, `200ms to 1s`, `median 300ms, p95 1.2s` */
export function describeDelay(delay: DelayDefinition): string {
  if (typeof delay === 'string') return delay;
  return 'low' in delay ? `${delay.low} to ${delay.high}` : `median ${delay.median}, p95 ${delay.p95}`;
}
