/**
 * The CORS headers that let any page read an answer (Fetch standard, 3.2.5), credentials included: the origin is
 * repeated, never `*`, since `*` forbids credentials. What the answer sets itself is left as it is.
 */
export function addCorsHeaders(headers: string[], origin: string): void {
  const names = headers.filter((_, i) => i % 2 === 0).map((name) => name.toLowerCase());
  if (names.includes('access-control-allow-origin')) return;
  headers.push('access-control-allow-origin', origin, 'access-control-allow-credentials', 'true', 'vary', 'origin');
  const exposed = names.filter((name) => !name.startsWith('access-control-'));
  if (exposed.length > 0) headers.push('access-control-expose-headers', exposed.join(', '));
}
