import type { CorsRules } from '@upsetter/core';

/**
 * The CORS headers that let a page read an answer (Fetch standard, 3.2.5): the origin is repeated, never `*`, since
 * `*` forbids credentials. What the answer sets itself is left as it is; a page that may not gets none.
 */
export function addCorsHeaders(headers: string[], origin: string, rules: CorsRules): void {
  const names = headers.filter((_, i) => i % 2 === 0).map((name) => name.toLowerCase());
  if (names.includes('access-control-allow-origin')) return;
  headers.push('vary', 'origin');
  if (!rules.allows(origin)) return;
  headers.push('access-control-allow-origin', origin);
  if (rules.credentials) headers.push('access-control-allow-credentials', 'true');
  const exposed = rules.expose ?? names.filter((name) => !name.startsWith('access-control-'));
  if (exposed.length > 0) headers.push('access-control-expose-headers', exposed.join(', '));
}

/** What a preflight is told: the method and the headers it asks for, unless the rules name others. */
export function preflightHeaders(
  asked: { readonly method: string; readonly headers: string | undefined },
  allow: readonly string[],
  rules: CorsRules,
): string[] {
  const methods = rules.methods ?? [...new Set([...allow, asked.method])];
  const headers = rules.headers?.join(', ') ?? asked.headers;
  return [
    ...['access-control-allow-methods', methods.join(', '), 'access-control-max-age', String(rules.maxAgeSeconds)],
    ...(headers === undefined || headers === '' ? [] : ['access-control-allow-headers', headers]),
  ];
}
