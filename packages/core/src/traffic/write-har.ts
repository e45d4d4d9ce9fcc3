import type { Exchange } from './exchange.js';

/** Exchanges as a HAR 1.2 file, in their order. Source: the HAR 1.2 specification; -1 stands for what is not known. */
export function writeHar(exchanges: readonly Exchange[], version: string): string {
  const entries = exchanges.map(toEntry);
  return JSON.stringify({ log: { version: '1.2', creator: { name: 'Upsetter', version }, entries } });
}

function toEntry(exchange: Exchange): object {
  const { body, contentType } = exchange;
  const url = new URL(exchange.origin + exchange.path);
  for (const [name, value] of exchange.query) url.searchParams.append(name, value);
  const { requestBody } = exchange;
  const sentType = headerValue(exchange.requestHeaders, 'content-type');
  return {
    startedDateTime: new Date(exchange.startedAtMs).toISOString(),
    time: exchange.tookMs,
    request: {
      method: exchange.method,
      url: url.href,
      httpVersion: 'HTTP/1.1',
      cookies: [],
      headers: toPairs(exchange.requestHeaders),
      queryString: exchange.query.map(([name, value]) => ({ name, value })),
      ...(requestBody === null ? {} : { postData: { mimeType: sentType, text: requestBody } }),
      headersSize: -1,
      bodySize: requestBody === null ? 0 : new TextEncoder().encode(requestBody).byteLength,
    },
    response: {
      status: exchange.status,
      statusText: '',
      httpVersion: 'HTTP/1.1',
      cookies: [],
      headers: toPairs(exchange.responseHeaders),
      content: {
        size: body === null ? 0 : body.content.length,
        mimeType: contentType,
        ...(body === null ? {} : { text: body.content }),
        ...(body?.kind === 'base64' ? { encoding: 'base64' } : {}),
      },
      redirectURL: headerValue(exchange.responseHeaders, 'location'),
      headersSize: -1,
      bodySize: -1,
    },
    cache: {},
    timings: { send: 0, wait: exchange.firstByteMs, receive: Math.max(0, exchange.tookMs - exchange.firstByteMs) },
    ...(exchange.trouble === null ? {} : { comment: exchange.trouble }),
  };
}

function toPairs(flat: readonly string[]): { name: string; value: string }[] {
  return flat.flatMap((name, i) => (i % 2 === 1 ? [] : [{ name, value: flat[i + 1] ?? '' }]));
}

function headerValue(flat: readonly string[], wanted: string): string {
  return toPairs(flat).find(({ name }) => name.toLowerCase() === wanted)?.value ?? '';
}
