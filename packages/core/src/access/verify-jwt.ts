import { verifyBytes } from '../expression/coding-functions.js';
import { isMapValue, type ValueMap } from '../expression/value.js';
import { PAIR_ALGORITHMS, type PublicKey, type ServiceKeys } from './service-keys.js';

/** What a JSON Web Token (RFC 7519) came to, held against the keys of a service. */
export type VerifiedJwt =
  | { readonly kind: 'valid'; readonly claims: ValueMap }
  | { readonly kind: 'invalid'; readonly reason: string };

/** What a token may be signed with: a key that is shared, or the private halves of these. */
export type JwtKeys =
  | { readonly kind: 'shared'; readonly key: string }
  | { readonly kind: 'public'; readonly keys: readonly PublicKey[] }
  /** Those of the service itself, which its token endpoint signs with. */
  | { readonly kind: 'own'; readonly algorithm: string };

const MS_PER_SECOND = 1000;
const SHARED: Readonly<Record<string, string>> = { HS256: 'sha256', HS384: 'sha384', HS512: 'sha512' };

/** `nowMs`: of the lane's clock, by which tokens begin and end. */
export function verifyJwt(token: string, keys: JwtKeys, nowMs: number, service: ServiceKeys | null): VerifiedJwt {
  const [head = '', body = '', signature = '', ...rest] = token.split('.');
  const header = readPart(head);
  const claims = readPart(body);
  if (header === null || claims === null || rest.length > 0) return invalid('it is no JSON Web Token');
  const wrong = checkSignature({ header, text: `${head}.${body}`, signature }, keys, service);
  if (wrong !== null) return invalid(wrong);
  const { exp, nbf } = claims;
  if (typeof exp === 'number' && nowMs >= exp * MS_PER_SECOND) return invalid(`it ended at ${momentOf(exp)}`);
  if (typeof nbf === 'number' && nowMs < nbf * MS_PER_SECOND) return invalid(`it begins at ${momentOf(nbf)}`);
  return { kind: 'valid', claims };
}

interface SignedText {
  readonly header: ValueMap;
  readonly text: string;
  readonly signature: string;
}

/** Why a token is not signed as it has to be; null: it is. The kind of key, not the token, says how that is found out (RFC 8725, 3.1). */
function checkSignature(
  { header, text, signature }: SignedText,
  keys: JwtKeys,
  service: ServiceKeys | null,
): string | null {
  const algorithm = String(header['alg']);
  if (keys.kind === 'shared') {
    const digest = Object.hasOwn(SHARED, algorithm) ? SHARED[algorithm] : undefined;
    if (digest === undefined) return `it is signed by ${algorithm}, not by ${Object.keys(SHARED).join(', ')}`;
    return verifyBytes(keys.key, text, digest, signature) ? null : 'its signature is not by this key';
  }
  if (!PAIR_ALGORITHMS.includes(algorithm)) return `it is signed by ${algorithm}, not by ${PAIR_ALGORITHMS.join(', ')}`;
  if (service === null) return 'there is nothing here that can verify it';
  const known = keys.kind === 'own' ? service.publicKeys(keys.algorithm) : keys.keys;
  const named = known.filter((key) => isMeant(key, header['kid']));
  if (named.length === 0) return `its key ${JSON.stringify(header['kid'])} is not known`;
  const results = named.map((key) => service.verify(algorithm, key, text, signature));
  if (results.includes('right')) return null;
  return results.includes('wrong')
    ? `its signature is not by ${named.length === 1 ? 'this key' : 'one of these keys'}`
    : `no key of the file is for ${algorithm}`;
}

/** A token may name its key (RFC 7515, 4.1.4); a key without a name may be the one. */
function isMeant(key: PublicKey, kid: unknown): boolean {
  return typeof kid !== 'string' || typeof key === 'string' || key['kid'] === undefined || key['kid'] === kid;
}

function invalid(reason: string): VerifiedJwt {
  return { kind: 'invalid', reason };
}

function momentOf(seconds: number): string {
  const date = new Date(seconds * MS_PER_SECOND);
  return Number.isNaN(date.getTime()) ? String(seconds) : date.toISOString();
}

function readPart(part: string): ValueMap | null {
  try {
    const bytes = Uint8Array.from(atob(part.replaceAll('-', '+').replaceAll('_', '/')), (c) => c.charCodeAt(0));
    const value: unknown = JSON.parse(new TextDecoder().decode(bytes));
    return isMapValue(value) ? value : null;
  } catch {
    return null;
  }
}
