import { hmac } from '@noble/hashes/hmac.js';
import { sha256 } from '@noble/hashes/sha2.js';

const DIGITS = '0123456789';
const LOWER = 'abcdefghijklmnopqrstuvwxyz';
const UPPER = LOWER.toUpperCase();
const HEX = /^[0-9a-f]+$/;
const JWT = /^eyJ[\w-]+\.[\w-]+\.[\w-]*$/;
/** Claims of a JWT (RFC 7519, 4.1) that are moments: they stay, so that a token still runs out when it did. */
const MOMENT_CLAIMS = new Set(['exp', 'iat', 'nbf', 'auth_time']);

/**
 * A mask in the place of a secret: of the same length and kinds of characters, the same for the same secret under one
 * key (HMAC-SHA-256, RFC 2104), and without a way back for who does not have the key. A JWT stays decodable.
 */
export function maskText(secret: string, key: Uint8Array): string {
  return JWT.test(secret) ? maskJwt(secret, key) : maskCharacters(secret, key);
}

function maskCharacters(secret: string, key: Uint8Array): string {
  const isHex = HEX.test(secret) && secret.length >= 8;
  const draw = createStream(secret, key);
  let text = '';
  for (const c of secret) text += maskCharacter(c, isHex, draw);
  return text;
}

function maskCharacter(c: string, isHex: boolean, draw: () => number): string {
  if (isHex) return '0123456789abcdef'[draw() % 16] ?? '0';
  if (DIGITS.includes(c)) return DIGITS[draw() % 10] ?? '0';
  if (LOWER.includes(c)) return LOWER[draw() % 26] ?? 'x';
  if (UPPER.includes(c)) return UPPER[draw() % 26] ?? 'X';
  return c.charCodeAt(0) > 127 ? 'x' : c;
}

/** Bytes that depend on the secret and the key alone, as many as are asked for. */
function createStream(secret: string, key: Uint8Array): () => number {
  const encoder = new TextEncoder();
  let block = hmac(sha256, key, encoder.encode(secret));
  let at = 0;
  return () => {
    if (at === block.length) {
      block = hmac(sha256, key, block);
      at = 0;
    }
    return block[at++] ?? 0;
  };
}

function maskJwt(token: string, key: Uint8Array): string {
  const [head = '', payload = '', signature = ''] = token.split('.');
  const claims = decodeJson(payload);
  if (claims === null) return `${head}.${maskCharacters(payload, key)}.${maskCharacters(signature, key)}`;
  const masked = Object.fromEntries(
    Object.entries(claims).map(([name, value]) => [name, maskClaim(name, value, key)] as const),
  );
  return `${head}.${encodeJson(masked)}.${maskCharacters(signature, key)}`;
}

function maskClaim(name: string, value: unknown, key: Uint8Array): unknown {
  if (MOMENT_CLAIMS.has(name)) return value;
  if (typeof value === 'string') return maskCharacters(value, key);
  if (typeof value === 'number') return Number(maskCharacters(String(value), key));
  if (Array.isArray(value)) return value.map((item) => maskClaim('', item, key));
  return value;
}

function decodeJson(text: string): Record<string, unknown> | null {
  try {
    const bytes = Uint8Array.from(atob(text.replaceAll('-', '+').replaceAll('_', '/')), (c) => c.charCodeAt(0));
    const value: unknown = JSON.parse(new TextDecoder().decode(bytes));
    return value !== null && typeof value === 'object' && !Array.isArray(value)
      ? (value as Record<string, unknown>)
      : null;
  } catch {
    return null;
  }
}

function encodeJson(value: unknown): string {
  let text = '';
  for (const byte of new TextEncoder().encode(JSON.stringify(value))) text += String.fromCharCode(byte);
  return btoa(text).replaceAll('+', '-').replaceAll('/', '_').replace(/=+$/, '');
}
