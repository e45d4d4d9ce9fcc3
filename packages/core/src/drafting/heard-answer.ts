import { isHeaderName, isHeaderValue } from '../answer/header-text.js';
import { escapeTemplate, escapeTemplates } from '../expression/template.js';
import type { Exchange } from '../traffic/exchange.js';

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

/** The `answer` of a case, from an answer as heard: body in its plainest form, headers that carry meaning. */
export function buildHeardAnswer(exchange: Exchange): Record<string, unknown> {
  const body = buildBody(exchange);
  const headers = buildHeaders(exchange, Object.keys(body)[0] ?? 'none');
  return { status: exchange.status, ...(Object.keys(headers).length > 0 ? { headers } : {}), ...body };
}

function buildBody(exchange: Exchange): Record<string, unknown> {
  const { body, contentType } = exchange;
  if (body === null) return { none: true };
  if (body.kind === 'base64') return { base64: body.content };
  if (/^application\/(.*\+)?json/i.test(contentType)) {
    try {
      return { json: escapeTemplates(JSON.parse(body.content)) };
    } catch {
      return { text: escapeTemplate(body.content) };
    }
  }
  return { text: escapeTemplate(body.content) };
}

const OWN_TYPES: Readonly<Record<string, RegExp>> = {
  json: /^application\/json(; *charset=utf-8)?$/i,
  text: /^text\/plain; *charset=utf-8$/i,
};

function buildHeaders(exchange: Exchange, form: string): Record<string, string | string[]> {
  const headers: Record<string, string | string[]> = {};
  for (let i = 0; i < exchange.responseHeaders.length; i += 2) {
    const name = (exchange.responseHeaders[i] ?? '').toLowerCase();
    const value = escapeTemplate(exchange.responseHeaders[i + 1] ?? '');
    if (MADE_ANEW.has(name) || name.startsWith('access-control-')) continue;
    if (!isHeaderName(name) || !isHeaderValue(value)) continue;
    if (name === 'content-type' && (OWN_TYPES[form]?.test(value) ?? false)) continue;
    const before = headers[name];
    headers[name] = before === undefined ? value : [...(Array.isArray(before) ? before : [before]), value];
  }
  return headers;
}

/** What makes two answers the same: status, type and body. Headers such as ids and dates differ on every call. */
export function answerKey(exchange: Exchange): string {
  return JSON.stringify([exchange.status, exchange.contentType, exchange.body]);
}
