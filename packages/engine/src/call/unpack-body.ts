import { promisify } from 'node:util';
import { brotliDecompress, gunzip, inflate, inflateRaw } from 'node:zlib';

/** A body without its content coding (RFC 9110, 8.4); `broken`: it is not what its header says, or too large when unpacked. */
export type UnpackedBody =
  | { readonly kind: 'unpacked'; readonly body: Uint8Array }
  | { readonly kind: 'broken'; readonly reason: string };

type Unpack = (body: Uint8Array, options: { readonly maxOutputLength: number }) => Promise<Uint8Array>;

/** What calls itself deflate comes with the frame of zlib, and often without it. */
const unpackDeflate: Unpack = (body, options) =>
  promisify(inflate)(body, options).catch((error: NodeJS.ErrnoException) =>
    error.code === 'ERR_BUFFER_TOO_LARGE' ? Promise.reject(error) : promisify(inflateRaw)(body, options),
  );

const CODINGS: Readonly<Record<string, Unpack>> = {
  gzip: promisify(gunzip) as Unpack,
  'x-gzip': promisify(gunzip) as Unpack,
  deflate: unpackDeflate,
  br: promisify(brotliDecompress) as Unpack,
};

/** Undoes the codings in `contentEncoding`, the last one first. One that is not known is left, with all before it. */
export async function unpackBody(body: Uint8Array, contentEncoding: string, maxBytes: number): Promise<UnpackedBody> {
  let unpacked = body;
  const codings = contentEncoding.split(',').map((name) => name.trim().toLowerCase());
  for (const name of codings.reverse()) {
    if (name === '' || name === 'identity') continue;
    const unpack = Object.hasOwn(CODINGS, name) ? CODINGS[name] : undefined;
    if (unpack === undefined) return { kind: 'broken', reason: `the content coding ${name} is not known` };
    try {
      unpacked = await unpack(unpacked, { maxOutputLength: maxBytes });
    } catch (error) {
      const isLarge = (error as NodeJS.ErrnoException).code === 'ERR_BUFFER_TOO_LARGE';
      const reason = isLarge
        ? `the body is over the limit of ${maxBytes} bytes when unpacked`
        : `the body is not ${name}`;
      return { kind: 'broken', reason };
    }
  }
  return { kind: 'unpacked', body: unpacked };
}
