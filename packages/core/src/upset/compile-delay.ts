import type { DelayDefinition } from '../definition/delay.js';
import { parseDuration } from '../definition/duration.js';

/** How long an upset delays a call. */
export interface CompiledDelay {
  /** Whether it differs from call to call: then a fraction has to be drawn. */
  readonly isDrawn: boolean;
  /** Milliseconds for a fraction from 0 to 1. */
  readonly msAt: (fraction: number) => number;
}

// Of the standard normal distribution.
const Z_AT_95_PERCENT = 1.6448536269514722;
// Beyond, a drawn delay would be longer than anyone asked for: 1 in 10,000 calls on each side.
const LEAST_FRACTION = 0.0001;

/** A delay ready to be asked: fixed, even between two limits, or log-normal as latencies of services are. */
export function compileDelay(definition: DelayDefinition): CompiledDelay {
  if (typeof definition === 'string') {
    const ms = parseDuration(definition) ?? 0;
    return { isDrawn: false, msAt: () => ms };
  }
  if ('low' in definition) {
    const low = parseDuration(definition.low) ?? 0;
    const width = (parseDuration(definition.high) ?? 0) - low;
    return { isDrawn: true, msAt: (fraction) => low + width * fraction };
  }
  const median = parseDuration(definition.median) ?? 0;
  const spread = Math.log((parseDuration(definition.p95) ?? 0) / median) / Z_AT_95_PERCENT;
  return { isDrawn: true, msAt: (fraction) => median * Math.exp(spread * normalAt(fraction)) };
}

/**
 * The point of the standard normal distribution below which a fraction lies; good to 0.0005.
 * Source: Abramowitz and Stegun, Handbook of Mathematical Functions, 26.2.23.
 */
function normalAt(fraction: number): number {
  const inside = Math.min(1 - LEAST_FRACTION, Math.max(LEAST_FRACTION, fraction));
  const t = Math.sqrt(-2 * Math.log(Math.min(inside, 1 - inside)));
  const z =
    t - (2.515517 + 0.802853 * t + 0.010328 * t * t) / (1 + 1.432788 * t + 0.189269 * t * t + 0.001308 * t * t * t);
  return inside < 0.5 ? -z : z;
}
