import { verifyBytes } from '../expression/coding-functions.js';
import { isMapValue, type ValueMap } from '../expression/value.js';

/** What a JSON Web Token (RFC 7519) came to, held against a shared key. */
export type VerifiedJwt =
  | { readonly kind: 'valid'; readonly claims: ValueMap }
  | { readonly kind: 'invalid'; readonly reason: string };

const MS_PER_SECOND = 1000;
const ALGORITHMS: Readonly<Record<string, string>> = { HS256: 'sha256', HS384: 'sha384', HS512: 'sha512' };

/** `nowMs`: of the lane's clock, by which tokens begin and end. */
export function verifyJwt(token: string, key: string, nowMs: number): VerifiedJwt {
  const [head = '', body = '', signature = '', ...rest] = token.split('.');
  const header = readPart(head);
  const claims = readPart(body);
  if (header === null || claims === null || rest.length > 0) return invalid('it is no JSON Web Token');
  const digest = ALGORITHMS[String(header['alg'])];
  if (digest === undefined)
    return invalid(`it is signed by ${String(header['alg'])}, not by ${Object.keys(ALGORITHMS).join(', ')}`);
  if (!verifyBytes(key, `${head}.${body}`, digest, signature)) return invalid('its signature is not by this key');
  const { exp, nbf } = claims;
  if (typeof exp === 'number' && nowMs >= exp * MS_PER_SECOND) return invalid(`it ended at ${momentOf(exp)}`);
  if (typeof nbf === 'number' && nowMs < nbf * MS_PER_SECOND) return invalid(`it begins at ${momentOf(nbf)}`);
  return { kind: 'valid', claims };
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
