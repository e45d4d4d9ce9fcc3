import parseRange from 'range-parser';
import type { StoredFile } from '../definition/answer-forms.js';
import type { TagRequest } from './entity-tag.js';
import type { RenderedAnswer, StoredForm } from './rendered-answer.js';
import { divide, isRangeSet, MOST_RANGES, NOT_SATISFIABLE, PARTIAL, rangeText } from './serve-ranges.js';

/** All of a file that is sent from where it is. */
export function wholeFile({ path, size }: StoredFile): StoredForm {
  return { kind: 'stored', path, size, pieces: size === 0 ? [] : [{ start: 0, end: size - 1 }] };
}

/** The parts of a file that `Range` asks for: one as it is, several as multipart/byteranges; 416 where there is no such part. */
export function serveStoredRange(answer: RenderedAnswer, stored: StoredForm, request: TagRequest): RenderedAnswer {
  const headers = [...answer.headers, 'accept-ranges', 'bytes'];
  const asked = request.method === 'GET' ? request.header('range')?.trim() : undefined;
  const { size } = stored;
  const whole = { ...answer, headers };
  if (asked === undefined || answer.status !== 200 || request.header('if-range') !== undefined) return whole;
  const ranges = isRangeSet(asked) ? parseRange(size, asked, { combine: true }) : [];
  if (ranges === -1) return { status: NOT_SATISFIABLE, headers: ['content-range', `bytes */${size}`], body: null };
  if (typeof ranges === 'number' || ranges.length > MOST_RANGES) return whole;
  const [only] = ranges;
  if (only === undefined) return whole;
  if (ranges.length > 1) {
    const { pieces, headers: partHeaders } = divide(headers, size, ranges);
    return { status: PARTIAL, headers: partHeaders, body: null, wire: { ...stored, pieces } };
  }
  return {
    status: PARTIAL,
    headers: [...headers, 'content-range', rangeText(only, size)],
    body: null,
    wire: { ...stored, pieces: [{ start: only.start, end: only.end }] },
  };
}
