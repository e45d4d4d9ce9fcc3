import type { CompiledAnswer } from '../answer/compiled-answer.js';
import type { RenderedAnswer } from '../answer/rendered-answer.js';
import type { PlannedCallback } from '../callback/compile-callback.js';
import { AppError } from '../errors/app-error.js';
import { type FoundValue, gatherFound } from '../explain/found-value.js';
import { Frame } from '../expression/frame.js';
import type { CompiledCase } from '../matching/compile-case.js';
import type { CompiledOperation, CompiledService } from '../matching/compile-service.js';
import type { RequestView } from '../request/request-view.js';
import type { CompiledUpset } from '../upset/compile-upset.js';
import { pickRow } from './compile-row-pick.js';
import type { Change } from './compile-then.js';
import { hashText } from './draw.js';
import type { Lane } from './lane.js';

/**
 * What one call came to. `failed`: an expression of the case (or, without a case, of a condition) did not work out.
 * `found`: what conditions on state and rows found; null where none was asked.
 */
export type Decision = { readonly found: readonly FoundValue[] | null } & (
  | {
      readonly kind: 'answered';
      readonly caseName: string;
      readonly answer: RenderedAnswer;
      /** Calls to be made once the answer is sent; null: none. */
      readonly callbacks: readonly PlannedCallback[] | null;
      /** Lines that the case leaves on the call; null: none. */
      readonly notes: readonly string[] | null;
    }
  | { readonly kind: 'failed'; readonly caseName: string | null; readonly reason: string }
  | { readonly kind: 'stray' }
);

const NO_CHANGES: readonly Change[] = [];
const STRAY: Decision = { kind: 'stray', found: null };

/**
 * The one commit of a call: the row is picked, the case chosen, its turn taken, `let` and the answer are evaluated and
 * every change of `then` is made in this one synchronous step, before any delay or byte. Steps of `then` see everything
 * as it was before the call; when one of them fails, none is made.
 */
export function commitCall(
  service: CompiledService,
  operation: CompiledOperation,
  request: RequestView,
  lane: Lane,
  nowMs: number,
): Decision {
  const makeFrame = (): Frame => frameOf(service, operation.name, request, lane, nowMs);
  if (!operation.needsFrame) {
    const chosen = chooseCase(operation, request, null);
    return chosen === null ? STRAY : answerCase(operation, chosen, lane, makeFrame, null);
  }
  const frame = makeFrame();
  let chosen: CompiledCase | null;
  try {
    if (operation.row !== null) frame.row = pickRow(frame, operation.row);
    chosen = chooseCase(operation, request, frame);
  } catch (error) {
    return { kind: 'failed', caseName: null, reason: reasonOf(error), found: null };
  }
  const found = gatherTried(operation, request, chosen, frame);
  return chosen === null ? { kind: 'stray', found } : answerCase(operation, chosen, lane, () => frame, found);
}

function frameOf(service: CompiledService, key: string, request: RequestView, lane: Lane, nowMs: number): Frame {
  const count = lane.callsOf(key) + 1;
  return new Frame(request, lane, service.name, nowMs, hashText(key, lane.seedHash + count), service.start);
}

function answerCase(
  operation: CompiledOperation,
  chosen: CompiledCase,
  lane: Lane,
  makeFrame: () => Frame,
  found: readonly FoundValue[] | null,
): Decision {
  const { name: caseName, answer, turns, lets, steps, callbacks } = chosen;
  if (turns === null && lets === null && steps === null && callbacks === null && answer.constant !== null) {
    lane.countCall(operation.name);
    return { kind: 'answered', caseName, answer: answer.constant, callbacks: null, notes: null, found };
  }
  try {
    const frame = makeFrame();
    lane.countCall(operation.name);
    const due = turns === null ? answer : turns.choose(lane.data.turnsOf(turnKeyOf(operation, chosen)), frame.drawHash);
    if (lets !== null) evaluateLets(lets, frame);
    const rendered = due.constant ?? due.render(frame);
    if (steps !== null || callbacks !== null) frame.answer = rendered;
    const changes = steps?.map((step) => step(frame)) ?? NO_CHANGES;
    const planned = callbacks === null ? null : callbacks.flatMap((plan) => plan(frame) ?? []);
    if (frame.changes !== null) for (const change of frame.changes) change();
    for (const change of changes) change(frame);
    // HEAD asks what GET would answer: the turn is still to come.
    if (turns !== null && frame.request.method !== 'HEAD') lane.data.takeTurn(turnKeyOf(operation, chosen));
    return { kind: 'answered', caseName, answer: rendered, callbacks: planned, notes: frame.notes, found };
  } catch (error) {
    return { kind: 'failed', caseName, reason: reasonOf(error), found };
  }
}

function turnKeyOf(operation: CompiledOperation, { name }: CompiledCase): string {
  return `${operation.name} / ${name}`;
}

/** Each value may use those before it. */
function evaluateLets(lets: readonly ((frame: Frame) => unknown)[], frame: Frame): void {
  const values: unknown[] = [];
  frame.lets = values;
  for (const evaluate of lets) values.push(evaluate(frame));
}

/** The answer an upset puts in the place of a case's: it takes no turn and counts no call. */
export function renderUpsetAnswer(
  service: CompiledService,
  upset: CompiledUpset,
  request: RequestView,
  lane: Lane,
  nowMs: number,
): Decision {
  if (upset.answer === null) return STRAY;
  const key = `upset ${upset.name}`;
  const makeFrame = (): Frame =>
    new Frame(request, lane, service.name, nowMs, hashText(key, lane.seedHash + lane.callsOf(key)), service.start);
  return renderDecision(upset.name, upset.answer, makeFrame);
}

/** The file's own answer to who may not call; `failed`: an expression of it did not work out. */
export function renderAccessAnswer(
  service: CompiledService,
  answer: CompiledAnswer,
  request: RequestView,
  lane: Lane,
  nowMs: number,
):
  | { readonly kind: 'rendered'; readonly answer: RenderedAnswer }
  | { readonly kind: 'failed'; readonly reason: string } {
  try {
    const frame = frameOf(service, 'access', request, lane, nowMs);
    return { kind: 'rendered', answer: answer.constant ?? answer.render(frame) };
  } catch (error) {
    return { kind: 'failed', reason: reasonOf(error) };
  }
}

/** The first case, in file order, whose conditions hold. The frame is given where the operation needs one. */
export function chooseCase(
  operation: CompiledOperation,
  request: RequestView,
  frame: Frame | null,
): CompiledCase | null {
  const { cases, index } = operation;
  if (index === null) {
    for (const item of cases) if (holds(item, request, frame)) return item;
    return null;
  }
  for (const position of index(request)) {
    const item = cases[position];
    if (item !== undefined && holds(item, request, frame)) return item;
  }
  return null;
}

function holds(item: CompiledCase, request: RequestView, frame: Frame | null): boolean {
  for (const condition of item.conditions) if (!condition.test(request, frame)) return false;
  return true;
}

/** What the cases found that were looked at, up to the one chosen; those an index ruled out say enough by the call itself. */
function gatherTried(
  operation: CompiledOperation,
  request: RequestView,
  chosen: CompiledCase | null,
  frame: Frame,
): readonly FoundValue[] {
  const { cases, index } = operation;
  const found: FoundValue[] = [];
  const tried = index === null ? cases : index(request).flatMap((position) => cases[position] ?? []);
  for (const item of tried) {
    gatherFound(item, request, frame, found);
    if (item === chosen) break;
  }
  return found;
}

function renderDecision(caseName: string, answer: CompiledAnswer, makeFrame: () => Frame): Decision {
  if (answer.constant !== null)
    return { kind: 'answered', caseName, answer: answer.constant, callbacks: null, notes: null, found: null };
  try {
    return {
      kind: 'answered',
      caseName,
      answer: answer.render(makeFrame()),
      callbacks: null,
      notes: null,
      found: null,
    };
  } catch (error) {
    return { kind: 'failed', caseName, reason: reasonOf(error), found: null };
  }
}

function reasonOf(error: unknown): string {
  return error instanceof AppError ? error.message : `a mistake of ours: ${String(error)}`;
}
