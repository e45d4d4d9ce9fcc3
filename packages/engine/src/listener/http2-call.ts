import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Http2ServerRequest, Http2ServerResponse } from 'node:http2';

/** Fields of one connection, which HTTP/2 does not have (RFC 9113, 8.2.2). */
const OF_A_CONNECTION = new Set(['connection', 'keep-alive', 'proxy-connection', 'transfer-encoding', 'upgrade']);

/** A request of HTTP/2 as the path of a call reads one: `host` in the place of `:authority`, no other pseudo-header. */
export function toPlainRequest(incoming: Http2ServerRequest): IncomingMessage {
  const raw = incoming.rawHeaders;
  const headers: string[] = [];
  let host: string | undefined;
  for (let i = 0; i < raw.length; i += 2) {
    const name = raw[i] ?? '';
    if (name === ':authority') host = raw[i + 1];
    else if (!name.startsWith(':')) headers.push(name, raw[i + 1] ?? '');
  }
  if (host !== undefined && !headers.some((name, i) => i % 2 === 0 && name === 'host')) headers.unshift('host', host);
  Object.defineProperty(incoming, 'rawHeaders', { value: headers });
  return incoming as unknown as IncomingMessage;
}

export function toPlainResponse(outgoing: Http2ServerResponse): ServerResponse {
  return outgoing as unknown as ServerResponse;
}

/** Whether a body is to come: in HTTP/2 the head says that it ends the request, or does not. */
export function hasStreamedBody(incoming: IncomingMessage): boolean {
  const { stream } = incoming as unknown as Http2ServerRequest;
  return !(stream as unknown as { readonly endAfterHeaders: boolean }).endAfterHeaders;
}

export function isHttp2({ httpVersionMajor }: IncomingMessage): boolean {
  return httpVersionMajor === 2;
}

/** Flat headers as HTTP/2 takes them: names in lower case, each once, with all of its values. */
export function toHttp2Headers(flat: readonly string[]): Record<string, string | string[]> {
  const headers: Record<string, string | string[]> = {};
  for (let i = 0; i < flat.length; i += 2) {
    const name = (flat[i] ?? '').toLowerCase();
    const value = flat[i + 1] ?? '';
    if (OF_A_CONNECTION.has(name)) continue;
    const known = headers[name];
    headers[name] = known === undefined ? value : [known, value].flat();
  }
  return headers;
}
