import { promisify } from 'node:util';
import { brotliCompress, constants, deflate, gzip } from 'node:zlib';
import { type ContentCoding, chooseCoding, type RenderedAnswer } from '@upsetter/core';

type Pack = (body: Uint8Array) => Promise<Uint8Array>;

/** Quick rather than small: the answer waits for it. */
const QUICK = { params: { [constants.BROTLI_PARAM_QUALITY]: 4 } };

const PACKERS: Readonly<Record<ContentCoding, Pack>> = {
  gzip: (body) => promisify(gzip)(body),
  deflate: (body) => promisify(deflate)(body),
  br: (body) => promisify(brotliCompress)(body, QUICK),
};

/** An answer with its body packed as the caller likes best, and its headers saying so; as it is where the caller takes no coding. */
export async function packAnswer(answer: RenderedAnswer, acceptEncoding: string | undefined): Promise<RenderedAnswer> {
  const { status, body } = answer;
  const headers = [...answer.headers, 'vary', 'accept-encoding'];
  const coding = chooseCoding(acceptEncoding);
  if (coding === null || body === null || body.length === 0) return { status, headers, body };
  const packed = await PACKERS[coding](typeof body === 'string' ? Buffer.from(body) : body);
  return { status, headers: [...headers.map(weakenTag), 'content-encoding', coding], body: packed };
}

/** Packed, a body has other bytes: a tag of it is the same in meaning only (RFC 9110, 8.8.3.3). */
function weakenTag(value: string, i: number, all: readonly string[]): string {
  return i % 2 === 1 && all[i - 1]?.toLowerCase() === 'etag' && value.startsWith('"') ? `W/${value}` : value;
}
