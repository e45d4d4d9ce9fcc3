import parseRange from 'range-parser';
import type { StoredFile } from '../definition/answer-forms.js';
import type { TagRequest } from './entity-tag.js';
import type { RenderedAnswer, StoredForm } from './rendered-answer.js';
import { isRangeSet, NOT_SATISFIABLE, PARTIAL, rangeText } from './serve-ranges.js';

/** All of a file that is sent from where it is. */
export function wholeFile({ path, size }: StoredFile): StoredForm {
  return { kind: 'stored', path, start: 0, end: size - 1 };
}

/** The part of a file that `Range` asks for, where it is one (RFC 9110, 14.2: several may be answered with all of it); 416 where there is no such part. */
export function serveStoredRange(answer: RenderedAnswer, stored: StoredForm, request: TagRequest): RenderedAnswer {
  const headers = [...answer.headers, 'accept-ranges', 'bytes'];
  const asked = request.method === 'GET' ? request.header('range')?.trim() : undefined;
  const size = stored.end + 1;
  const whole = { ...answer, headers };
  if (asked === undefined || answer.status !== 200 || request.header('if-range') !== undefined) return whole;
  const ranges = isRangeSet(asked) ? parseRange(size, asked, { combine: true }) : [];
  if (ranges === -1) return { status: NOT_SATISFIABLE, headers: ['content-range', `bytes */${size}`], body: null };
  const [only] = typeof ranges === 'number' ? [] : ranges;
  if (only === undefined || (typeof ranges !== 'number' && ranges.length > 1)) return whole;
  return {
    status: PARTIAL,
    headers: [...headers, 'content-range', rangeText(only, size)],
    body: null,
    wire: { ...stored, start: only.start, end: only.end },
  };
}
