/** Headers of one connection, not of the message (RFC 9110, 7.6.1), beside those that `connection` names. */
const HOP_BY_HOP: ReadonlySet<string> = new Set([
  'connection',
  'keep-alive',
  'proxy-connection',
  'proxy-authenticate',
  'proxy-authorization',
  'te',
  'trailer',
  'transfer-encoding',
  'upgrade',
]);

/** The headers of a message as they are passed on: those of the connection left out, `host` naming the other side. */
export function passHeaders(raw: readonly string[], host: string | null): string[] {
  const named = namedByConnection(raw);
  const passed: string[] = [];
  for (let i = 0; i < raw.length; i += 2) {
    const name = raw[i] ?? '';
    const lower = name.toLowerCase();
    if (HOP_BY_HOP.has(lower) || named.has(lower) || (host !== null && lower === 'host')) continue;
    passed.push(name, raw[i + 1] ?? '');
  }
  if (host !== null) passed.unshift('host', host);
  return passed;
}

/** Flat headers with those of `more` in the place of their namesakes, and without those named. */
export function replaceHeaders(flat: readonly string[], more: readonly string[], without: readonly string[]): string[] {
  const gone = new Set([...without, ...more.filter((_, i) => i % 2 === 0).map((name) => name.toLowerCase())]);
  const kept = flat.filter((_, i) => !gone.has((flat[i - (i % 2)] ?? '').toLowerCase()));
  return [...kept, ...more];
}

function namedByConnection(raw: readonly string[]): ReadonlySet<string> {
  const named = new Set<string>();
  for (let i = 0; i < raw.length; i += 2) {
    if (raw[i]?.toLowerCase() !== 'connection') continue;
    for (const name of (raw[i + 1] ?? '').split(',')) named.add(name.trim().toLowerCase());
  }
  return named;
}

/** Whether a message of these headers has a body (RFC 9112, 6). */
export function hasBody(raw: readonly string[]): boolean {
  return raw.some((name, i) => {
    if (i % 2 === 1) return false;
    const lower = name.toLowerCase();
    return lower === 'transfer-encoding' || (lower === 'content-length' && raw[i + 1] !== '0');
  });
}
