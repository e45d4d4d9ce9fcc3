import {
  constants,
  createHash,
  createPublicKey,
  generateKeyPairSync,
  type KeyObject,
  type KeyPairKeyObjectResult,
  sign,
  verify,
} from 'node:crypto';
import type { PublicKey, ServiceKeys } from '@upsetter/core';

/** How an algorithm (RFC 7518, 3.1; RFC 8037) is computed, and with which keys. */
interface Algorithm {
  readonly digest: string | null;
  readonly kind: 'rsa' | 'ec' | 'ed25519';
  readonly curve: string | null;
  readonly options: object;
}

function rsa(bits: number, options: object): Algorithm {
  return { digest: `sha${bits}`, kind: 'rsa', curve: null, options };
}

function pss(bits: number): Algorithm {
  return rsa(bits, { padding: constants.RSA_PKCS1_PSS_PADDING, saltLength: bits / 8 });
}

function ec(bits: number, curve: string): Algorithm {
  // Signatures of tokens are two numbers side by side (RFC 7518, 3.4).
  return { digest: `sha${bits}`, kind: 'ec', curve, options: { dsaEncoding: 'ieee-p1363' } };
}

const ALGORITHMS: Readonly<Record<string, Algorithm>> = {
  RS256: rsa(256, {}),
  RS384: rsa(384, {}),
  RS512: rsa(512, {}),
  PS256: pss(256),
  PS384: pss(384),
  PS512: pss(512),
  ES256: ec(256, 'prime256v1'),
  ES384: ec(384, 'secp384r1'),
  ES512: ec(512, 'secp521r1'),
  EdDSA: { digest: null, kind: 'ed25519', curve: null, options: {} },
};

const RSA_BITS = 2048;
const MOST_KEPT = 1_000;

/** Signatures for one service: its own pairs of keys are made when they are first used, and stay as long as it runs. */
export function createServiceKeys(): ServiceKeys {
  const own = new Map<string, OwnKey>();
  const parsed = new Map<PublicKey, KeyObject | null>();
  const ownKey = (algorithm: string): OwnKey => {
    const known = own.get(algorithm);
    if (known !== undefined) return known;
    const made = makeKey(algorithm);
    own.set(algorithm, made);
    return made;
  };
  const read = (key: PublicKey): KeyObject | null => {
    const known = parsed.get(key);
    if (known !== undefined) return known;
    if (parsed.size >= MOST_KEPT) parsed.clear();
    const made = readPublicKey(key);
    parsed.set(key, made);
    return made;
  };
  return {
    verify: (name, key, text, signature) => {
      const algorithm = ALGORITHMS[name];
      const object = read(key);
      if (algorithm === undefined || object === null || !isFor(object, algorithm)) return 'unusable';
      const { digest, options } = algorithm;
      const bytes = Buffer.from(signature, 'base64url');
      return verify(digest, Buffer.from(text), { key: object, ...options }, bytes) ? 'right' : 'wrong';
    },
    sign: (claims, name) => {
      const { privateKey, kid } = ownKey(name);
      const { digest, options } = ALGORITHMS[name] as Algorithm;
      const text = `${encode({ alg: name, typ: 'JWT', kid })}.${encode(claims)}`;
      return `${text}.${sign(digest, Buffer.from(text), { key: privateKey, ...options }).toString('base64url')}`;
    },
    publicKeys: (name) => [ownKey(name).jwk],
  };
}

interface OwnKey {
  readonly privateKey: KeyObject;
  readonly kid: string;
  readonly jwk: Readonly<Record<string, unknown>>;
}

function makeKey(name: string): OwnKey {
  const { publicKey, privateKey } = generate(ALGORITHMS[name] as Algorithm);
  const jwk = publicKey.export({ format: 'jwk' });
  const kid = createHash('sha256').update(JSON.stringify(jwk)).digest('base64url').slice(0, 16);
  return { privateKey, kid, jwk: { ...jwk, kid, use: 'sig', alg: name } };
}

function generate({ kind, curve }: Algorithm): KeyPairKeyObjectResult {
  if (kind === 'rsa') return generateKeyPairSync('rsa', { modulusLength: RSA_BITS });
  return kind === 'ec' ? generateKeyPairSync('ec', { namedCurve: curve ?? '' }) : generateKeyPairSync('ed25519');
}

/** Null: it cannot be read. */
export function readPublicKey(key: PublicKey): KeyObject | null {
  try {
    return typeof key === 'string' ? createPublicKey(key) : createPublicKey({ key, format: 'jwk' });
  } catch {
    return null;
  }
}

function isFor(key: KeyObject, { kind, curve }: Algorithm): boolean {
  return key.asymmetricKeyType === kind && (curve === null || key.asymmetricKeyDetails?.namedCurve === curve);
}

function encode(value: unknown): string {
  return Buffer.from(JSON.stringify(value)).toString('base64url');
}
