import { ownHeaders, type WrittenCall } from './call-as-code.js';

/** A call that was tried, as it was written. */
export interface TriedCall {
  readonly method: string;
  readonly path: string;
  /** One `name: value` a line. */
  readonly headers: string;
  readonly body: string;
  /** The name in the client certificate that is shown; empty or left out: none. */
  readonly certificate?: string;
}

const MOST_KEPT = 20;
/** Try is sent in the lane that is picked. */
const LANE_HEADER = 'upsetter-lane';

const keyOf = (service: string): string => `upsetter tried ${service}`;

/** What was tried before in this browser, the last one first. */
export function readTried(service: string, storage: Pick<Storage, 'getItem'> = localStorage): readonly TriedCall[] {
  try {
    const kept: unknown = JSON.parse(storage.getItem(keyOf(service)) ?? '[]');
    return Array.isArray(kept) ? (kept as TriedCall[]).filter(isTried) : [];
  } catch {
    return [];
  }
}

/** Keeps a call; the same one again moves to the front. */
export function keepTried(
  service: string,
  tried: TriedCall,
  storage: Pick<Storage, 'getItem' | 'setItem'> = localStorage,
): readonly TriedCall[] {
  const others = readTried(service, storage).filter((own) => JSON.stringify(own) !== JSON.stringify(tried));
  const kept = [tried, ...others].slice(0, MOST_KEPT);
  storage.setItem(keyOf(service), JSON.stringify(kept));
  return kept;
}

function isTried(own: Partial<TriedCall> | null): own is TriedCall {
  return [own?.method, own?.path, own?.headers, own?.body].every((text) => typeof text === 'string');
}

/** A call of the log, to be tried again; headers that came several times are one, joined by commas (RFC 9110, 5.2). */
export function toTried({ method, url, headers, body }: WrittenCall): TriedCall {
  const joined = new Map<string, { name: string; values: string[] }>();
  for (const [name, value] of ownHeaders({ headers })) {
    const key = name.toLowerCase();
    if (key === LANE_HEADER) continue;
    const known = joined.get(key);
    if (known === undefined) joined.set(key, { name, values: [value] });
    else known.values.push(value);
  }
  const lines = [...joined.values()].map(({ name, values }) => `${name}: ${values.join(', ')}`);
  return { method, path: url, headers: lines.join('\n'), body: body ?? '' };
}

/** `accept: text/xml`, one a line, as a map; what is no header is left out. */
export function parseHeaders(text: string): Record<string, string> {
  const pairs = text.split('\n').flatMap((line) => {
    const colon = line.indexOf(':');
    return colon <= 0 ? [] : [[line.slice(0, colon).trim().toLowerCase(), line.slice(colon + 1).trim()] as const];
  });
  return Object.fromEntries(pairs);
}
