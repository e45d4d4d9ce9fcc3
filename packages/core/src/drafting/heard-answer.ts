import { isHeaderName, isHeaderValue } from '../answer/header-text.js';
import type { Heard } from './heard.js';

// Hop-by-hop headers (RFC 9110, 7.6.1), lengths and codings are the mock's own to make; so are dates and CORS headers.
const MADE_ANEW = new Set([
  'connection',
  'keep-alive',
  'proxy-connection',
  'te',
  'trailer',
  'transfer-encoding',
  'upgrade',
  'content-length',
  'content-encoding',
  'date',
]);

/** An answer as heard, in the parts a case has: nothing is escaped yet. */
export interface HeardAnswer {
  readonly status: number;
  readonly headers: Readonly<Record<string, string | string[]>>;
  readonly form: 'json' | 'text' | 'base64' | 'none';
  readonly body: unknown;
}

export function readAnswer({ exchange, answerJson }: Heard): HeardAnswer {
  const { body, contentType, status } = exchange;
  const isJson = answerJson !== undefined && /^application\/(.*\+)?json/i.test(contentType);
  const form = body === null ? 'none' : body.kind === 'base64' ? 'base64' : isJson ? 'json' : 'text';
  return {
    status,
    headers: readHeaders(exchange.responseHeaders, form),
    form,
    body: form === 'none' ? null : form === 'json' ? answerJson : body?.content,
  };
}

const OWN_TYPES: Readonly<Record<string, RegExp>> = {
  json: /^application\/json(; *charset=utf-8)?$/i,
  text: /^text\/plain; *charset=utf-8$/i,
};

function readHeaders(raw: readonly string[], form: string): Record<string, string | string[]> {
  const headers: Record<string, string | string[]> = {};
  for (let i = 0; i < raw.length; i += 2) {
    const name = (raw[i] ?? '').toLowerCase();
    const value = raw[i + 1] ?? '';
    if (MADE_ANEW.has(name) || name.startsWith('access-control-')) continue;
    if (!isHeaderName(name) || !isHeaderValue(value)) continue;
    if (name === 'content-type' && (OWN_TYPES[form]?.test(value) ?? false)) continue;
    const before = headers[name];
    headers[name] = before === undefined ? value : [...(Array.isArray(before) ? before : [before]), value];
  }
  return headers;
}
