import parseRange from 'range-parser';
import type { TagRequest } from './entity-tag.js';
import type { BodyPiece, RenderedAnswer } from './rendered-answer.js';

const OK = 200;
export const PARTIAL = 206;
const NOT_SATISFIABLE = 416;
const UNSATISFIABLE = -1;
const MOST_RANGES = 20;
const ENCODER = new TextEncoder();

/** The parts of the body that `Range` asks for (RFC 9110, 14): one as it is, several as multipart/byteranges; 416 where there is no such part. */
export function serveRanges(answer: RenderedAnswer, request: TagRequest): RenderedAnswer {
  const { body } = answer;
  if (body === null) return answer;
  let bytes = typeof body === 'string' ? null : body;
  const encode = (): Uint8Array => {
    bytes ??= ENCODER.encode(body as string);
    return bytes;
  };
  const { pieces, ...head } = cutByRanges(answer, request, () => encode().length);
  if (pieces === null) return { ...answer, ...head };
  return { ...head, body: pieces.length === 0 ? null : join(encode(), pieces) };
}

/** An answer whose body is as the call asks for it. `pieces` null: it is sent as it is; none: there is no such part. */
interface CutAnswer {
  readonly status: number;
  readonly headers: readonly string[];
  readonly pieces: readonly BodyPiece[] | null;
}

/** What `Range` makes of an answer, wherever its body is. */
export function cutByRanges({ status, headers }: RenderedAnswer, request: TagRequest, sizeOf: () => number): CutAnswer {
  if (status !== OK) return { status, headers, pieces: null };
  const open = [...headers, 'accept-ranges', 'bytes'];
  const whole = { status, headers: open, pieces: null };
  const asked = request.method === 'GET' ? request.header('range')?.trim() : undefined;
  // What is no range is as if it were not there.
  if (asked === undefined || !isRangeSet(asked) || !isStillMeant(request.header('if-range'), headers)) return whole;
  const size = sizeOf();
  const ranges = parseRange(size, asked, { combine: true });
  if (ranges === UNSATISFIABLE)
    return { status: NOT_SATISFIABLE, headers: ['content-range', `bytes */${size}`], pieces: [] };
  if (typeof ranges === 'number' || ranges.length > MOST_RANGES) return whole;
  const [only] = ranges;
  if (ranges.length > 1 || only === undefined) return { status: PARTIAL, ...divide(open, size, ranges) };
  return { status: PARTIAL, headers: [...open, 'content-range', rangeText(only, size)], pieces: [only] };
}

/** `bytes=0-4, -2`; one that ends before it begins is no range (RFC 9110, 14.1.1). */
function isRangeSet(asked: string): boolean {
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

function rangeText({ start, end }: Range, size: number): string {
  return `bytes ${start}-${end}/${size}`;
}

const BOUNDARY = 'upsetter-part';

function join(bytes: Uint8Array, pieces: readonly BodyPiece[]): Uint8Array {
  const parts = pieces.map((piece) =>
    typeof piece === 'string' ? ENCODER.encode(piece) : bytes.subarray(piece.start, piece.end + 1),
  );
  if (parts.length === 1) return parts[0] as Uint8Array;
  const body = new Uint8Array(parts.reduce((size, part) => size + part.length, 0));
  let at = 0;
  for (const part of parts) {
    body.set(part, at);
    at += part.length;
  }
  return body;
}

/** The pieces of a body that has several ranges as its parts (RFC 9110, 14.6), and its headers. */
function divide(
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
