import type { IncomingMessage } from 'node:http';
import { hasStreamedBody, isHttp2 } from '../listener/http2-call.js';

/** What the path of a call itself needs of a request's headers, read in one pass; everything else is read when asked for. */
export interface RequestHead {
  readonly lane: string | null;
  readonly baggage: string | null;
  readonly origin: string | null;
  /** Whether there is a body at all (RFC 9112, 6): only then there is anything to wait for. */
  readonly hasBody: boolean;
  /** How many bytes the body is said to have; 0 where nothing is said. */
  readonly bodyBytes: number;
  /** Whether the body has a content coding. */
  readonly isPacked: boolean;
}

/** Names are told apart by their length first: most headers are none of these. */
export function readHead(incoming: IncomingMessage): RequestHead {
  const raw = incoming.rawHeaders;
  let lane: string | null = null;
  let baggage: string | null = null;
  let origin: string | null = null;
  let hasBody = false;
  let bodyBytes = 0;
  let isPacked = false;
  for (let i = 0; i < raw.length; i += 2) {
    const name = raw[i] ?? '';
    const value = raw[i + 1] ?? '';
    switch (name.length) {
      case 'origin'.length:
        if (name.toLowerCase() === 'origin') origin = value;
        break;
      case 'baggage'.length:
        if (name.toLowerCase() === 'baggage') baggage = baggage === null ? value : `${baggage},${value}`;
        break;
      case 'upsetter-lane'.length:
        if (name.toLowerCase() === 'upsetter-lane') lane = value;
        break;
      case 'content-length'.length:
        if (name.toLowerCase() === 'content-length') {
          bodyBytes = Number(value);
          hasBody ||= value !== '0';
        }
        break;
      case 'content-encoding'.length:
        if (name.toLowerCase() === 'content-encoding') isPacked = true;
        break;
      case 'transfer-encoding'.length:
        if (name.toLowerCase() === 'transfer-encoding') hasBody = true;
        break;
    }
  }
  if (isHttp2(incoming)) hasBody = hasStreamedBody(incoming);
  return { lane, baggage, origin, hasBody, bodyBytes, isPacked };
}
