import type { CompiledAnswer } from '../answer/compile-answer.js';
import type { RenderedAnswer } from '../answer/rendered-answer.js';
import { AppError } from '../errors/app-error.js';
import { Frame } from '../expression/frame.js';
import type { CompiledCase, CompiledOperation, CompiledService } from '../matching/compile-service.js';
import type { RequestView } from '../request/request-view.js';
import type { CompiledUpset } from '../upset/compile-upset.js';
import { hashText } from './draw.js';
import type { Lane } from './lane.js';

/** What one call came to. `failed`: the case held, but an expression of its answer did not work out. */
export type Decision =
  | { readonly kind: 'answered'; readonly caseName: string; readonly answer: RenderedAnswer }
  | { readonly kind: 'failed'; readonly caseName: string; readonly reason: string }
  | { readonly kind: 'stray' };

const STRAY: Decision = { kind: 'stray' };

/**
 * The one commit of a call: choosing the case, counting the call, rendering the answer (and, with them, every change of
 * state) happen in this one synchronous step, before any delay or byte.
 */
export function commitCall(
  service: CompiledService,
  operation: CompiledOperation,
  request: RequestView,
  lane: Lane,
  nowMs: number,
): Decision {
  const chosen = chooseCase(operation, request);
  if (chosen === null) return STRAY;
  const count = lane.countCall(operation.name);
  return renderDecision(
    chosen.name,
    chosen.answer,
    () => new Frame(request, lane, service.name, nowMs, hashText(operation.name, lane.seedHash + count)),
  );
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
  return renderDecision(
    upset.name,
    upset.answer,
    () => new Frame(request, lane, service.name, nowMs, hashText(key, lane.seedHash + lane.callsOf(key))),
  );
}

/** The first case, in file order, whose conditions hold. */
export function chooseCase(operation: CompiledOperation, request: RequestView): CompiledCase | null {
  const { cases, index } = operation;
  if (index === null) {
    for (const item of cases) if (holds(item, request)) return item;
    return null;
  }
  for (const position of index(request)) {
    const item = cases[position];
    if (item !== undefined && holds(item, request)) return item;
  }
  return null;
}

function holds(item: CompiledCase, request: RequestView): boolean {
  for (const condition of item.conditions) if (!condition.test(request)) return false;
  return true;
}

function renderDecision(caseName: string, answer: CompiledAnswer, makeFrame: () => Frame): Decision {
  if (answer.constant !== null) return { kind: 'answered', caseName, answer: answer.constant };
  try {
    return { kind: 'answered', caseName, answer: answer.render(makeFrame()) };
  } catch (error) {
    const reason = error instanceof AppError ? error.message : `a mistake of ours: ${String(error)}`;
    return { kind: 'failed', caseName, reason };
  }
}
