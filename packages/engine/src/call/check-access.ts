import { renderAccessAnswer } from '@upsetter/core';
import { buildAccessProblem, buildExpressionProblem } from './built-in-answers.js';
import type { Call } from './call.js';

/** Holds the call against who may make it: a refusal is the answer, and stands on the record. */
export function checkAccess(call: Call): void {
  const access = call.operation?.access ?? null;
  if (access === null) return;
  const { record, request, lane, live } = call;
  const nowMs = lane.clock.now(request.receivedAtMs);
  const refusal = access.check(request, nowMs, lane.keys);
  if (refusal === null) return;
  record.answeredBy = 'access';
  record.trouble = refusal.reason;
  if (access.refuse === null) {
    call.answer = buildAccessProblem(call, refusal);
    return;
  }
  const rendered = renderAccessAnswer(live.compiled, access.refuse, request, lane, nowMs);
  call.answer = rendered.kind === 'rendered' ? rendered.answer : buildExpressionProblem(call, rendered.reason);
}
