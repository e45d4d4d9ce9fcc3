import { randomFillSync } from 'node:crypto';

const POOL_BYTES = 4096;
const RANDOM_BYTES = 8;
const MOST_IN_MS = 0x1000;

const pool = new Uint8Array(POOL_BYTES);
let poolAt = POOL_BYTES;
let lastMs = 0;
let countInMs = 0;
let prefix = '';

const HEX = Array.from({ length: 256 }, (_, byte) => byte.toString(16).padStart(2, '0'));
/** The variant `10` in the two top bits of the ninth byte (RFC 9562, 4.1). */
const VARIANT_HEX = Array.from({ length: 256 }, (_, byte) => ((byte & 0x3f) | 0x80).toString(16));

/**
 * A UUIDv7 (RFC 9562, 5.7) that sorts after every one made before in this process: milliseconds, a counter in `rand_a`,
 * 62 random bits. Ours because it is on the path of every call, where the registry's takes ten times as long.
 */
export function makeCallId(nowMs: number): string {
  if (nowMs > lastMs) startMs(nowMs);
  else if (++countInMs === MOST_IN_MS) startMs(lastMs + 1);
  if (poolAt === POOL_BYTES) {
    randomFillSync(pool);
    poolAt = 0;
  }
  const at = poolAt;
  poolAt += RANDOM_BYTES;
  const count = HEX[countInMs & 0xff];
  return `${prefix}${(countInMs >>> 8).toString(16)}${count}-${VARIANT_HEX[pool[at] ?? 0]}${hex(at + 1)}-${hex(at + 2)}${hex(at + 3)}${hex(at + 4)}${hex(at + 5)}${hex(at + 6)}${hex(at + 7)}`;
}

function startMs(ms: number): void {
  lastMs = ms;
  countInMs = 0;
  const text = ms.toString(16).padStart(12, '0');
  prefix = `${text.slice(0, 8)}-${text.slice(8)}-7`;
}

function hex(at: number): string {
  return HEX[pool[at] ?? 0] ?? '00';
}
