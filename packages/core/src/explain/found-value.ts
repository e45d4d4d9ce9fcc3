import type { Frame } from '../expression/frame.js';
import type { CompiledCase } from '../matching/compile-case.js';
import type { CompiledCondition } from '../matching/compile-condition.js';
import { ABSENT } from '../matching/place.js';
import type { RequestView } from '../request/request-view.js';
import { describeFound } from './explain-condition.js';

/**
 * What one condition found in state or rows when the call was decided: later it could not be asked again. `text` is what
 * people read, made when it is first needed; values are never changed in place, so that it may be late.
 */
export class FoundValue {
  readonly caseName: string;
  readonly place: string;
  readonly held: boolean;
  readonly #value: unknown;
  #text: string | null;

  constructor(caseName: string, place: string, held: boolean, value: unknown, text: string | null) {
    this.caseName = caseName;
    this.place = place;
    this.held = held;
    this.#value = value;
    this.#text = text;
  }

  get text(): string {
    this.#text ??= describeFound(this.#value, false);
    return this.#text;
  }

  toJSON(): { caseName: string; place: string; held: boolean; text: string } {
    return { caseName: this.caseName, place: this.place, held: this.held, text: this.text };
  }
}

/** Adds to `found` what the conditions on state and rows of a case find. */
export function gatherFound(item: CompiledCase, request: RequestView, frame: Frame, found: FoundValue[]): void {
  gatherFrom(item.name, item.conditions, request, frame, found);
}

function gatherFrom(
  caseName: string,
  conditions: readonly CompiledCondition[],
  request: RequestView,
  frame: Frame,
  found: FoundValue[],
): void {
  for (const condition of conditions) {
    if (!condition.needsFrame) continue;
    if (condition.branches === null) found.push(readFound(caseName, condition, request, frame));
    else for (const branch of condition.branches) gatherFrom(caseName, branch, request, frame, found);
  }
}

function readFound(caseName: string, condition: CompiledCondition, request: RequestView, frame: Frame): FoundValue {
  const { id } = condition;
  try {
    const value = condition.place.read(request, frame);
    const held = condition.judge(value, frame);
    return new FoundValue(caseName, id, held, value, value === ABSENT ? 'absent' : null);
  } catch (error) {
    return new FoundValue(caseName, id, false, null, error instanceof Error ? error.message : String(error));
  }
}
