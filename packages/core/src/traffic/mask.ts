import { parse } from 'fast-querystring';

/** Headers whose values never reach a log, a take or an export in clear. */
const SECRET_HEADERS: ReadonlySet<string> = new Set(['authorization', 'proxy-authorization', 'cookie', 'set-cookie']);

export const MASK = '(masked)';

export function isSecretHeader(name: string): boolean {
  return SECRET_HEADERS.has(name.toLowerCase());
}

/**
 * A secret header's value with what is no secret left in place: the scheme of credentials, the names of cookies and their
 * attributes. `Bearer abc` -> `Bearer (masked)`, `gauge=7f; Path=/` -> `gauge=(masked); Path=/`.
 */
export function maskValue(header: string, value: string): string {
  const name = header.toLowerCase();
  if (name === 'set-cookie')
    return value.replace(/^([^=;]*=)?[^;]*/, (_all, cookie: string | undefined) => `${cookie ?? ''}${MASK}`);
  if (name === 'cookie') return value.replace(/([^=;]+=)[^;]*/g, `$1${MASK}`);
  const scheme = /^[A-Za-z][\w-]* (?=\S)/.exec(value)?.[0] ?? '';
  return `${scheme}${MASK}`;
}

/** Names, in lower case, that hold secrets of one service: the keys by which it lets callers in. */
export interface SecretPlaces {
  readonly headers: ReadonlySet<string>;
  readonly queries: ReadonlySet<string>;
}

export const NO_SECRETS: SecretPlaces = { headers: new Set(), queries: new Set() };

/** Path and query with the values of secret parameters masked. */
export function maskTarget(target: string, { queries }: SecretPlaces): string {
  if (queries.size === 0) return target;
  return target.replaceAll(/([?&])([^=&]*)=([^&]*)/g, (all, mark: string, name: string) =>
    queries.has(readName(name)) ? `${mark}${name}=${MASK}` : all,
  );
}

/** A parameter's name as calls are read: `tok%65n` is `token`. */
function readName(name: string): string {
  return (Object.keys(parse(name))[0] ?? '').toLowerCase();
}

/** Whether a place of a call is masked where it is shown. */
export function isSecretPlace(
  place: { readonly header: string | null; readonly text: string },
  { headers, queries }: SecretPlaces,
): boolean {
  if (place.header !== null) return isSecretHeader(place.header) || headers.has(place.header);
  const query = queries.size === 0 ? undefined : /^query\s+(.+)$/.exec(place.text)?.[1];
  return query !== undefined && queries.has(query.toLowerCase());
}

/** A flat list of headers (name, value, name, value) with secret values masked; the same list when there is none. */
export function maskHeaders(flat: readonly string[], { headers }: SecretPlaces = NO_SECRETS): readonly string[] {
  let masked: string[] | null = null;
  for (let i = 0; i < flat.length; i += 2) {
    const name = flat[i] ?? '';
    if (!isSecretHeader(name) && !headers.has(name.toLowerCase())) continue;
    masked ??= [...flat];
    masked[i + 1] = maskValue(name, flat[i + 1] ?? '');
  }
  return masked ?? flat;
}
