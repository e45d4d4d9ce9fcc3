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

/** A flat list of headers (name, value, name, value) with secret values masked; the same list when there is none. */
export function maskHeaders(flat: readonly string[]): readonly string[] {
  let masked: string[] | null = null;
  for (let i = 0; i < flat.length; i += 2) {
    const name = flat[i] ?? '';
    if (!isSecretHeader(name)) continue;
    masked ??= [...flat];
    masked[i + 1] = maskValue(name, flat[i + 1] ?? '');
  }
  return masked ?? flat;
}
