/** Headers whose values never reach a log, a take or an export in clear. */
const SECRET_HEADERS: ReadonlySet<string> = new Set(['authorization', 'proxy-authorization', 'cookie', 'set-cookie']);

export const MASK = '(masked)';

export function isSecretHeader(name: string): boolean {
  return SECRET_HEADERS.has(name.toLowerCase());
}

/** A flat list of headers (name, value, name, value) with secret values masked; the same list when there is none. */
export function maskHeaders(flat: readonly string[]): readonly string[] {
  let masked: string[] | null = null;
  for (let i = 0; i < flat.length; i += 2) {
    if (!isSecretHeader(flat[i] ?? '')) continue;
    masked ??= [...flat];
    masked[i + 1] = MASK;
  }
  return masked ?? flat;
}
