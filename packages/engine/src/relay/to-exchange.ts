import { brotliDecompressSync, gunzipSync, inflateRawSync, inflateSync } from 'node:zlib';
import { type Exchange, headerOf } from '@upsetter/core';
import type { HeardBody, RelayedCall } from './relayed-call.js';

const LARGEST_UNPACKED_BYTES = 64 * 1024 * 1024;
const TEXT_TYPE = /^(text\/|application\/(.*\+)?(json|xml|javascript|x-www-form-urlencoded|yaml))/i;

/** A relayed call as an exchange: bodies unpacked, text as text. Nothing is masked yet. */
export function toExchange(call: RelayedCall): Exchange {
  const [path = '/', query = ''] = splitOnce(call.target, '?');
  const contentType = headerOf(call.responseHeaders, 'content-type') ?? '';
  const answered = unpack(call.responseBody, headerOf(call.responseHeaders, 'content-encoding'));
  const asked = unpack(call.requestBody, headerOf(call.requestHeaders, 'content-encoding'));
  const troubles = [call.trouble, answered.trouble, asked.trouble].filter((trouble) => trouble !== null);
  return {
    index: call.order,
    startedAtMs: call.startedAtMs,
    firstByteMs: call.firstByteMs,
    tookMs: call.tookMs,
    method: call.method,
    origin: new URL(call.upstream).origin,
    path,
    query: [...new URLSearchParams(query)],
    requestHeaders: call.requestHeaders,
    requestBody:
      asked.bytes === null || asked.bytes.byteLength === 0 ? null : Buffer.from(asked.bytes).toString('utf8'),
    status: call.status,
    responseHeaders: call.responseHeaders,
    contentType,
    body: answered.bytes === null || answered.bytes.byteLength === 0 ? null : toBody(answered.bytes, contentType),
    trouble: troubles.length === 0 ? null : troubles.join('; '),
  };
}

function splitOnce(text: string, mark: string): string[] {
  const at = text.indexOf(mark);
  return at < 0 ? [text] : [text.slice(0, at), text.slice(at + 1)];
}

interface Unpacked {
  readonly bytes: Uint8Array | null;
  readonly trouble: string | null;
}

function unpack(body: HeardBody, encoding: string | null): Unpacked {
  if (body.bytes === null) return { bytes: null, trouble: `a body of ${body.sizeBytes} bytes was too large to keep` };
  if (encoding === null || body.bytes.byteLength === 0) return { bytes: body.bytes, trouble: null };
  try {
    return { bytes: decode(body.bytes, encoding.trim().toLowerCase()), trouble: null };
  } catch {
    return { bytes: null, trouble: `a body could not be unpacked (${encoding})` };
  }
}

function decode(bytes: Uint8Array, encoding: string): Uint8Array {
  const limit = { maxOutputLength: LARGEST_UNPACKED_BYTES };
  if (encoding === 'gzip' || encoding === 'x-gzip') return gunzipSync(bytes, limit);
  if (encoding === 'br') return brotliDecompressSync(bytes, limit);
  // `deflate` means zlib (RFC 9110, 8.4.1.2), but raw deflate is sent too.
  if (encoding === 'deflate')
    return (bytes[0] ?? 0) % 16 === 8 ? inflateSync(bytes, limit) : inflateRawSync(bytes, limit);
  if (encoding === 'identity') return bytes;
  throw new Error(`unknown content coding ${encoding}`);
}

function toBody(bytes: Uint8Array, contentType: string): Exchange['body'] {
  if (TEXT_TYPE.test(contentType)) return { kind: 'text', content: Buffer.from(bytes).toString('utf8') };
  try {
    if (contentType === '') return { kind: 'text', content: new TextDecoder('utf-8', { fatal: true }).decode(bytes) };
  } catch {
    // no text: kept as bytes
  }
  return { kind: 'base64', content: Buffer.from(bytes).toString('base64') };
}
