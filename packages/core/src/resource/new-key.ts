import type { NewKey } from '../definition/resource.js';
import type { Frame } from '../expression/frame.js';
import { drawPattern } from '../expression/pattern.js';
import { uuidAt } from '../state/draw.js';
import { identifyRow, type RowKey } from '../state/row-key.js';
import type { Row, Rows } from '../state/rows.js';

/** The key of a row that was sent without one; null: callers have to give it. */
export type NewKeyMaker = ((frame: Frame, rows: Rows, row: Row, field: string) => string | number) | null;

const MOST_TRIES = 1_000;

/** `starting`: by what the rows there are have for keys, where the file does not say it. `position`: of the draws. */
export function compileNewKey(
  wanted: NewKey | undefined,
  name: string,
  key: RowKey,
  starting: readonly Row[],
  position: number,
): NewKeyMaker {
  const field = key.at(-1) ?? 'id';
  const numbers = starting.map((row) => row[field]).filter((value) => typeof value === 'number');
  const form = wanted ?? (starting.length > 0 && numbers.length === starting.length ? 'number' : 'uuid');
  if (form === 'given') return null;
  if (form === 'number') {
    const first = numbers.reduce((most, value) => Math.max(most, value), 0) + 1;
    return untilFree(key, (frame) => frame.lane.next(`key of ${name}`, first));
  }
  if (form === 'uuid') return untilFree(key, (frame, tries) => uuidAt(frame.drawHash, position + tries));
  return untilFree(key, (frame, tries) => drawPattern(form.pattern, frame.drawHash, position + tries));
}

/** The first of the keys made that no row has yet; the last one made, where there is none to be found. */
function untilFree(key: RowKey, make: (frame: Frame, tries: number) => string | number): NewKeyMaker {
  return (frame, rows, row, field) => {
    for (let tries = 0; ; tries++) {
      const made = make(frame, tries);
      if (tries >= MOST_TRIES || rows.at(identifyRow({ ...row, [field]: made }, key)) === undefined) return made;
    }
  };
}
