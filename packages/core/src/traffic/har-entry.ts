import { z } from 'zod';
import type { Exchange } from './exchange.js';

const nameValue = z.object({ name: z.string(), value: z.string() });

/** One entry of HAR 1.2, as far as a draft needs it; tools leave much of the rest out. Source: the HAR 1.2 specification. */
const entrySchema = z.object({
  startedDateTime: z.string().optional(),
  time: z.number().optional(),
  timings: z.object({ wait: z.number().optional() }).optional(),
  request: z.object({
    method: z.string().min(1),
    url: z.string().min(1),
    headers: z.array(nameValue).optional(),
    postData: z.object({ text: z.string().optional() }).nullish(),
  }),
  response: z.object({
    status: z.int(),
    headers: z.array(nameValue).optional(),
    content: z
      .object({ mimeType: z.string().optional(), text: z.string().optional(), encoding: z.string().optional() })
      .optional(),
  }),
});
type HarEntry = z.output<typeof entrySchema>;

/** One entry as an exchange, or why it cannot be used. */
export function readHarEntry(raw: unknown, index: number): Exchange | string {
  const parsed = entrySchema.safeParse(raw);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    return `${issue?.path.join('.') ?? 'the entry'}: ${issue?.message ?? 'not as HAR 1.2 has it'}`;
  }
  const entry = parsed.data;
  const url = parseUrl(entry.request.url);
  if (url === null) return `the URL ${JSON.stringify(entry.request.url)} is no http or https URL`;
  if (!METHOD.test(entry.request.method)) return `the method ${JSON.stringify(entry.request.method)} is none`;
  if (entry.response.status < 100) return 'it has no response (the request was cut off or blocked)';
  if (entry.response.status < 200 || entry.response.status > 599)
    return `the status ${entry.response.status} cannot be answered by a case`;
  const { text, encoding } = entry.response.content ?? {};
  if (encoding === 'base64' && text !== undefined && !isBase64(text.replace(/\s/g, '')))
    return 'its body is no valid base64';
  return toExchange(entry, url, index);
}

function isBase64(text: string): boolean {
  return text.length % 4 === 0 && /^[A-Za-z0-9+/]*={0,2}$/.test(text);
}

function toExchange(entry: HarEntry, url: URL, index: number): Exchange {
  const responseHeaders = flatten(entry.response.headers);
  const { content } = entry.response;
  const type = responseHeaders.find((_, i) => i % 2 === 1 && responseHeaders[i - 1]?.toLowerCase() === 'content-type');
  const body =
    content?.text === undefined || content.text === ''
      ? null
      : decodeBody(content.text, content.encoding === 'base64', type ?? content.mimeType ?? '');
  return {
    index,
    startedAtMs: Date.parse(entry.startedDateTime ?? '') || 0,
    firstByteMs: Math.max(0, entry.timings?.wait ?? 0),
    tookMs: Math.max(0, entry.time ?? 0),
    method: entry.request.method.toUpperCase(),
    origin: url.origin,
    path: url.pathname,
    query: [...url.searchParams],
    requestHeaders: flatten(entry.request.headers),
    requestBody: entry.request.postData?.text ?? null,
    status: entry.response.status,
    responseHeaders,
    contentType: type ?? content?.mimeType ?? '',
    body,
    trouble: null,
  };
}

/** HTTP/2 pseudo headers (`:path`) are no headers. Browsers join repeated ones by line breaks: apart, each is masked by itself. */
function flatten(headers: HarEntry['request']['headers']): string[] {
  const real = (headers ?? []).filter(({ name }) => !name.startsWith(':'));
  return real.flatMap(({ name, value }) => value.split(/\r?\n/).flatMap((line) => [name, line]));
}

const TEXT_TYPE = /^(text\/|application\/(.*\+)?(json|xml|javascript|x-www-form-urlencoded))/i;

function decodeBody(text: string, isBase64: boolean, type: string): Exchange['body'] {
  if (!isBase64) return { kind: 'text', content: text };
  const base64 = text.replace(/\s/g, '');
  if (!TEXT_TYPE.test(type)) return { kind: 'base64', content: base64 };
  return { kind: 'text', content: new TextDecoder().decode(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))) };
}

const METHOD = /^[A-Za-z][A-Za-z-]*$/;

function parseUrl(text: string): URL | null {
  try {
    const url = new URL(text);
    return /^https?:$/.test(url.protocol) ? url : null;
  } catch {
    return null;
  }
}
