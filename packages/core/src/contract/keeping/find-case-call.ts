import type { RenderedAnswer } from '../../answer/rendered-answer.js';
import type { CompiledOperation, CompiledService } from '../../matching/compile-service.js';
import { findOperation } from '../../matching/find-operation.js';
import { RequestView } from '../../request/request-view.js';
import { commitCall, type Decision } from '../../state/commit-call.js';
import { Lanes } from '../../state/lane.js';
import type { IndexedOperation } from './contract-index.js';
import { sampleCalls } from './sample-call.js';
import type { SampleCall } from './sample-parts.js';

/** A call that leads to a case, and what the case answers; a text when an expression of it failed. */
export interface CaseCall {
  readonly call: SampleCall;
  readonly answer: RenderedAnswer | string;
}

/** A moment all samples are sent at, so that answers are the same each time. */
const SAMPLED_AT_MS = Date.UTC(2026, 2, 1, 8);

/** The first sample call that leads to a case, from a fresh start; null: none does. */
export function findCaseCall(
  service: CompiledService,
  own: IndexedOperation | null,
  operation: CompiledOperation,
  index: number,
): CaseCall | null {
  const definition = operation.cases[index]?.definition;
  if (definition === undefined) return null;
  for (const call of sampleCalls(own, service, operation, definition)) {
    const request = toRequest(call);
    const destination = findOperation(service, request);
    if (destination.kind !== 'operation' || destination.operation !== operation) continue;
    const decision = commitAfresh(service, operation, request);
    if (decision.kind === 'stray' || decision.caseName !== definition.case) continue;
    return { call, answer: decision.kind === 'failed' ? decision.reason : decision.answer };
  }
  return null;
}

/** What each turn of a case answers to a call that leads to it, as they stand in the file; texts for those that fail. */
export function answerTurns(
  service: CompiledService,
  operation: CompiledOperation,
  index: number,
  call: SampleCall,
): readonly (RenderedAnswer | string)[] {
  return (operation.cases[index]?.turns?.answers ?? []).map((answer) => {
    const cases = operation.cases.map((own, i) => (i === index ? { ...own, answer, turns: null } : own));
    const request = toRequest(call);
    // It reads the parameters of the path.
    findOperation(service, request);
    const decision = commitAfresh(service, { ...operation, cases }, request);
    return decision.kind === 'answered' ? decision.answer : decision.kind === 'failed' ? decision.reason : 'is a stray';
  });
}

function toRequest(call: SampleCall): RequestView {
  const request = new RequestView('sample', call.method, call.target, call.headers, SAMPLED_AT_MS);
  request.body = call.body;
  return request;
}

function commitAfresh(service: CompiledService, operation: CompiledOperation, request: RequestView): Decision {
  const lane = new Lanes(service.definition.seed ?? service.name).get('contract');
  return commitCall(service, operation, request, lane, request.receivedAtMs);
}
