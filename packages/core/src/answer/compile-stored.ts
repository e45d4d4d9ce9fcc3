import type { StoredFile } from '../definition/answer-forms.js';
import type { TagRequest } from './entity-tag.js';
import type { RenderedAnswer, StoredForm } from './rendered-answer.js';
import { cutByRanges } from './serve-ranges.js';

/** All of a file that is sent from where it is. */
export function wholeFile({ path, size }: StoredFile): StoredForm {
  return { kind: 'stored', path, size, pieces: size === 0 ? [] : [{ start: 0, end: size - 1 }] };
}

/** The parts of a file that `Range` asks for, sent from where it is. */
export function serveStoredRange(answer: RenderedAnswer, stored: StoredForm, request: TagRequest): RenderedAnswer {
  const { pieces, ...head } = cutByRanges(answer, request, () => stored.size);
  if (pieces === null) return { ...answer, ...head };
  return { ...head, body: null, ...(pieces.length === 0 ? {} : { wire: { ...stored, pieces } }) };
}
