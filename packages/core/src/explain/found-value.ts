import type { Frame } from '../expression/frame.js';
import type { CompiledCase } from '../matching/compile-case.js';
import { describeFound } from '../matching/compile-condition.js';
import { ABSENT } from '../matching/place.js';
import type { RequestView } from '../request/request-view.js';

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

/** What the conditions on state and rows found in the cases that were tried: all up to the one chosen. */
export function gatherFound(tried: readonly CompiledCase[], request: RequestView, frame: Frame): readonly FoundValue[] {
  const found: FoundValue[] = [];
  for (const item of tried) {
    for (const condition of item.conditions) {
      if (!condition.needsFrame) continue;
      found.push(readFound(item.name, condition, request, frame));
    }
  }
  return found;
}

function readFound(
  caseName: string,
  condition: CompiledCase['conditions'][number],
  request: RequestView,
  frame: Frame,
): FoundValue {
  const { text } = condition.place;
  try {
    const value = condition.place.read(request, frame);
    const held = condition.test(request, frame);
    return new FoundValue(caseName, text, held, value, value === ABSENT ? 'absent' : null);
  } catch (error) {
    return new FoundValue(caseName, text, false, null, error instanceof Error ? error.message : String(error));
  }
}
