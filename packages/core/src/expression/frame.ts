import type { RenderedAnswer } from '../answer/rendered-answer.js';
import { AppError } from '../errors/app-error.js';
import type { RequestView } from '../request/request-view.js';
import type { ResourceFindings } from '../resource/findings.js';
import type { Lane } from '../state/lane.js';
import type { Row } from '../state/rows.js';
import type { StartingData } from '../state/starting-data.js';

/** What one expression may cost on one call: each function call, loop step and 64 characters of new text cost one step. */
export const STEP_BUDGET = 100_000;
/** The longest text and the longest list an expression may make. */
export const LONGEST_TEXT = 1_000_000;
export const CHARACTERS_PER_STEP = 64;

/** A compiled expression: reads the frame, gives a JSON value. */
export type Evaluate = (frame: Frame) => unknown;

/** What expressions see on one call. Made once for each rendering, every field set. */
export class Frame {
  readonly request: RequestView;
  readonly lane: Lane;
  readonly service: string;
  readonly nowMs: number;
  /** All draws of this rendering come from here: seed, lane, operation, how-manieth call. */
  readonly drawHash: number;
  readonly start: StartingData;
  /** The row the operation picked for this call. */
  row: Row | null = null;
  /** The values of the case's `let`, by their position. */
  lets: readonly unknown[] = NO_VALUES;
  /** The answer, once it is rendered: what `then` reads. */
  answer: RenderedAnswer | null = null;
  /** What a call of a resource found: what its answers read. */
  findings: ResourceFindings | null = null;
  /** Changes that belong to the commit of this call, beside those of `then`. */
  changes: readonly (() => void)[] | null = null;
  /** Lines that stay with the call; null: none. */
  notes: readonly string[] | null = null;
  readonly locals: unknown[] = [];
  /** Which turn of the loops around it a draw is in; 0 outside of loops. */
  loopTurn = 0;
  steps = 0;

  constructor(request: RequestView, lane: Lane, service: string, nowMs: number, drawHash: number, start: StartingData) {
    this.request = request;
    this.lane = lane;
    this.service = service;
    this.nowMs = nowMs;
    this.drawHash = drawHash;
    this.start = start;
  }

  /** The place of a draw: outside of loops the position as it is; inside, one of its own for each turn. */
  drawPosition(position: number): number {
    return this.loopTurn === 0 ? position : (position ^ Math.imul(this.loopTurn, 0x9e3779b1)) >>> 0;
  }

  spend(steps: number): void {
    this.steps += steps;
    if (this.steps > STEP_BUDGET) fail(`it takes more than ${STEP_BUDGET} steps`);
  }
}

const NO_VALUES: readonly unknown[] = [];

/** Whether what it may cost is spent: then nothing makes up for it. */
export function isSpent(frame: Frame): boolean {
  return frame.steps > STEP_BUDGET;
}

/** Ends an expression on this call: the caller gets a 500 problem that says why, the service goes on. */
export function fail(reason: string): never {
  throw new AppError('expression-failed', reason);
}
