import type { Exchange } from '../src/index.js';

export interface HeardJson {
  readonly path: string;
  readonly method?: string;
  readonly status?: number;
  readonly index?: number;
  readonly json: unknown;
}

/** An exchange with a JSON answer, one second after the one before. */
export function exchangeOf({ path, method = 'GET', status = 200, index = 0, json }: HeardJson): Exchange {
  const [plain = '', query = ''] = path.split('?');
  return {
    index,
    startedAtMs: index * 1000,
    firstByteMs: 1,
    tookMs: 1,
    method,
    origin: 'http://a',
    path: plain,
    query: [...new URLSearchParams(query)],
    requestHeaders: [],
    requestBody: null,
    status,
    responseHeaders: ['content-type', 'application/json'],
    contentType: 'application/json',
    body: { kind: 'text', content: JSON.stringify(json) },
    trouble: null,
  };
}
