const GOLDEN = 0x9e3779b9;
const TWO_32 = 2 ** 32;

/** A 32-bit hash of a text (FNV-1a with a final mix): not for secrets, only for repeatable draws. */
export function hashText(text: string, seed = 0x811c9dc5): number {
  let hash = seed >>> 0;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return mix(hash);
}

/** The draw at a position: a whole number 0..2^32-1 that depends on nothing else than the hash and the position. */
export function drawAt(hash: number, position: number): number {
  return mix((hash + Math.imul(position + 1, GOLDEN)) >>> 0);
}

/** The draw at a position as a fraction 0 <= f < 1. */
export function fractionAt(hash: number, position: number): number {
  return drawAt(hash, position) / TWO_32;
}

/** A version 4 UUID (RFC 9562) from four draws at a position. */
export function uuidAt(hash: number, position: number): string {
  const words = [0, 1, 2, 3].map((i) => drawAt(drawAt(hash, position), i));
  const hex = words.map((word) => word.toString(16).padStart(8, '0')).join('');
  const variant = '89ab'[(words[2] ?? 0) >>> 30];
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-4${hex.slice(13, 16)}-${variant}${hex.slice(17, 20)}-${hex.slice(20, 32)}`;
}

// The finalizer of MurmurHash3: every input bit reaches every output bit.
function mix(value: number): number {
  let h = value ^ (value >>> 16);
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}
