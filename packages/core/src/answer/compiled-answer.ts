import type { Frame } from '../expression/frame.js';
import type { RenderedAnswer } from './rendered-answer.js';

/** An answer, ready to be rendered. `constant` when no expression is in it: then there is nothing to render. */
export interface CompiledAnswer {
  readonly constant: RenderedAnswer | null;
  readonly render: (frame: Frame) => RenderedAnswer;
}
