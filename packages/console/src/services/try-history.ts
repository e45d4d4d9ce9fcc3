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

/** `accept: text/xml`, one a line, as a map; what is no header is left out. */
export function parseHeaders(text: string): Record<string, string> {
  const pairs = text.split('\n').flatMap((line) => {
    const colon = line.indexOf(':');
    return colon <= 0 ? [] : [[line.slice(0, colon).trim().toLowerCase(), line.slice(colon + 1).trim()] as const];
  });
  return Object.fromEntries(pairs);
}
