import { hmac } from '@noble/hashes/hmac.js';
import { md5, sha1 } from '@noble/hashes/legacy.js';
import { sha256, sha384, sha512 } from '@noble/hashes/sha2.js';
import { defineFunction as define, type ExpressionFunction } from './expression-function.js';
import { CHARACTERS_PER_STEP, type Frame, fail } from './frame.js';
import { isMapValue, needText, toText, typeName } from './value.js';

const DIGESTS = { md5, sha1, sha256, sha384, sha512 } as const;
const JWT_DIGESTS = { HS256: sha256, HS384: sha384, HS512: sha512 } as const;
const ENCODER = new TextEncoder();

/** Codings, digests and signatures of texts (UTF-8); what is no text is taken as JSON. */
export const CODING_FUNCTIONS: Record<string, ExpressionFunction> = {
  base64: define(1, 1, ([value], frame) => toBase64(bytesOf(value, frame))),
  base64url: define(1, 1, ([value], frame) => toBase64Url(bytesOf(value, frame))),
  unbase64: define(1, 1, ([text], frame) => fromBase64(needText(text, 'unbase64'), frame)),
  hash: define(1, 2, ([value, name], frame) => toHex(digestOf(name)(bytesOf(value, frame)))),
  hmac: define(2, 4, ([key, value, name, coding], frame) =>
    signBytes(bytesOf(key, frame), bytesOf(value, frame), name, coding),
  ),
  jwt: define(2, 3, ([claims, key, name], frame) => signJwt(claims, key, name ?? 'HS256', frame)),
};

/** A keyed digest (RFC 2104) as text: in hex unless `coding` says base64 or base64url. */
export function signBytes(key: Uint8Array, value: Uint8Array, digest: unknown, coding: unknown): string {
  const made = hmac(digestOf(digest), key, value);
  if (coding === undefined || coding === 'hex') return toHex(made);
  if (coding === 'base64') return toBase64(made);
  return coding === 'base64url' ? toBase64Url(made) : fail('hmac gives hex, base64 or base64url');
}

/** Whether a signature in base64url is that of a text by a shared key; takes as long wherever they differ. */
export function verifyBytes(key: string, text: string, digest: string, signature: string): boolean {
  const made = signBytes(ENCODER.encode(key), ENCODER.encode(text), digest, 'base64url');
  let difference = made.length ^ signature.length;
  for (let i = 0; i < made.length; i++) difference |= made.charCodeAt(i) ^ signature.charCodeAt(i);
  return difference === 0;
}

function bytesOf(value: unknown, frame: Frame): Uint8Array {
  const bytes = ENCODER.encode(toText(value));
  frame.spend(Math.ceil(bytes.length / CHARACTERS_PER_STEP));
  return bytes;
}

function digestOf(name: unknown): (typeof DIGESTS)[keyof typeof DIGESTS] {
  const own = name ?? 'sha256';
  return typeof own === 'string' && Object.hasOwn(DIGESTS, own)
    ? DIGESTS[own as keyof typeof DIGESTS]
    : fail(`there is no digest ${toText(own)}; there is ${Object.keys(DIGESTS).join(', ')}`);
}

function toHex(bytes: Uint8Array): string {
  return [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('');
}

function toBase64(bytes: Uint8Array): string {
  return btoa(Array.from(bytes, (byte) => String.fromCharCode(byte)).join(''));
}

function toBase64Url(bytes: Uint8Array): string {
  return toBase64(bytes).replaceAll('+', '-').replaceAll('/', '_').replace(/=+$/, '');
}

function fromBase64(text: string, frame: Frame): string {
  frame.spend(Math.ceil(text.length / CHARACTERS_PER_STEP));
  try {
    const plain = atob(text.replaceAll('-', '+').replaceAll('_', '/'));
    return new TextDecoder().decode(Uint8Array.from(plain, (c) => c.charCodeAt(0)));
  } catch {
    return fail('unbase64 needs base64');
  }
}

/** A JSON Web Token signed with a shared key (RFC 7519, RFC 7515). */
function signJwt(claims: unknown, key: unknown, name: unknown, frame: Frame): string {
  if (!isMapValue(claims)) return fail(`jwt needs a map of claims, not ${typeName(claims)}`);
  const digest =
    typeof name === 'string' && Object.hasOwn(JWT_DIGESTS, name)
      ? JWT_DIGESTS[name as keyof typeof JWT_DIGESTS]
      : fail(`jwt signs by ${Object.keys(JWT_DIGESTS).join(', ')}, not ${toText(name)}`);
  const head = toBase64Url(bytesOf({ alg: name, typ: 'JWT' }, frame));
  const signed = `${head}.${toBase64Url(bytesOf(claims, frame))}`;
  return `${signed}.${toBase64Url(hmac(digest, bytesOf(key, frame), bytesOf(signed, frame)))}`;
}
