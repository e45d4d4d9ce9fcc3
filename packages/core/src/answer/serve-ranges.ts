import parseRange from 'range-parser';
import type { TagRequest } from './entity-tag.js';
import type { BodyPiece, RenderedAnswer } from './rendered-answer.js';

const OK = 200;
export const PARTIAL = 206;
export const NOT_SATISFIABLE = 416;
const UNSATISFIABLE = -1;
const NO_RANGE = -2;
export const MOST_RANGES = 20;
const ENCODER = new TextEncoder();

/** The parts of the body that `Range` asks for (RFC 9110, 14): one as it is, several as multipart/byteranges; 416 where there is no such part. */
export function serveRanges(answer: RenderedAnswer, request: TagRequest): RenderedAnswer {
  const { status, headers, body } = answer;
  if (body === null || status !== OK) return answer;
  const open = [...headers, 'accept-ranges', 'bytes'];
  const asked = request.method === 'GET' ? request.header('range') : undefined;
  if (asked === undefined || !isStillMeant(request.header('if-range'), headers)) return { ...answer, headers: open };
  const bytes = typeof body === 'string' ? ENCODER.encode(body) : body;
  const ranges = isRangeSet(asked.trim()) ? parseRange(bytes.length, asked.trim(), { combine: true }) : NO_RANGE;
  if (ranges === UNSATISFIABLE)
    return { status: NOT_SATISFIABLE, headers: ['content-range', `bytes */${bytes.length}`], body: null };
  // What is no range is as if it were not there.
  if (typeof ranges === 'number' || ranges.length > MOST_RANGES) return { ...answer, headers: open };
  const [only] = ranges;
  if (ranges.length === 1 && only !== undefined) {
    const part = bytes.subarray(only.start, only.end + 1);
    return { status: PARTIAL, headers: [...open, 'content-range', rangeText(only, bytes.length)], body: part };
  }
  return severalParts(open, bytes, ranges);
}

/** `bytes=0-4, -2`; one that ends before it begins is no range (RFC 9110, 14.1.1). */
export function isRangeSet(asked: string): boolean {
  const [unit = '', set = ''] = asked.split('=', 2);
  return (
    unit.toLowerCase() === 'bytes' &&
    set.split(',').every((part) => {
      const [, first, last] = /^\s*(\d*)-(\d*)\s*$/.exec(part) ?? [];
      if (first === undefined || (first === '' && last === '')) return false;
      return first === '' || last === '' || Number(last) >= Number(first);
    })
  );
}

/** `If-Range`: the parts are wanted only of the very body that the caller knows (RFC 9110, 13.1.5). */
function isStillMeant(ifRange: string | undefined, headers: readonly string[]): boolean {
  if (ifRange === undefined) return true;
  const own = (name: string) => headers[headers.findIndex((text, i) => i % 2 === 0 && text.toLowerCase() === name) + 1];
  const wanted = ifRange.trim();
  return wanted.startsWith('"') ? headers.includes('etag') && own('etag') === wanted : own('last-modified') === wanted;
}

interface Range {
  readonly start: number;
  readonly end: number;
}

export function rangeText({ start, end }: Range, size: number): string {
  return `bytes ${start}-${end}/${size}`;
}

const BOUNDARY = 'upsetter-part';

function severalParts(headers: readonly string[], bytes: Uint8Array, ranges: readonly Range[]): RenderedAnswer {
  const { pieces: parts, headers: partHeaders } = divide(headers, bytes.length, ranges);
  const pieces = parts.map((part) =>
    typeof part === 'string' ? ENCODER.encode(part) : bytes.subarray(part.start, part.end + 1),
  );
  const body = new Uint8Array(pieces.reduce((size, piece) => size + piece.length, 0));
  let at = 0;
  for (const piece of pieces) {
    body.set(piece, at);
    at += piece.length;
  }
  return { status: PARTIAL, headers: partHeaders, body };
}

/** The pieces of a body that has several ranges as its parts (RFC 9110, 14.6), and its headers. */
export function divide(
  headers: readonly string[],
  size: number,
  ranges: readonly Range[],
): { readonly pieces: readonly BodyPiece[]; readonly headers: readonly string[] } {
  const isType = (i: number): boolean => headers[i - (i % 2)]?.toLowerCase() === 'content-type';
  const type = headers.find((_, i) => i % 2 === 1 && isType(i)) ?? 'application/octet-stream';
  const pieces = ranges.flatMap(({ start, end }): BodyPiece[] => [
    `--${BOUNDARY}\r\ncontent-type: ${type}\r\ncontent-range: ${rangeText({ start, end }, size)}\r\n\r\n`,
    { start, end },
    '\r\n',
  ]);
  return {
    pieces: [...pieces, `--${BOUNDARY}--\r\n`],
    headers: [...headers.filter((_, i) => !isType(i)), 'content-type', `multipart/byteranges; boundary=${BOUNDARY}`],
  };
}
