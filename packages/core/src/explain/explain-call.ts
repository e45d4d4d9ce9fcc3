import { explainCondition } from '../matching/compile-condition.js';
import type { CompiledCase, CompiledOperation, CompiledService } from '../matching/compile-service.js';
import { findOperation } from '../matching/find-operation.js';
import type { RequestView } from '../request/request-view.js';
import { isSecretHeader } from '../traffic/mask.js';
import type { ExplainedCase, ExplainedOperation, Explanation } from './explanation.js';
import { nearOperations } from './near-operations.js';

/** Explains a request by the very conditions that matching runs: the ladder of its operation, or what came closest to being one. */
export function explainCall(service: CompiledService, request: RequestView): Explanation {
  const destination = findOperation(service, request);
  if (destination.kind === 'operation') {
    const explained = explainOperation(destination.operation, request);
    return { summary: summarize(explained), ladder: [explained] };
  }
  const ladder = nearOperations(service, request);
  if (destination.kind === 'other-method') {
    return {
      summary: `the path is known, but not with ${request.method}: it has ${destination.allow.join(', ')}`,
      ladder,
    };
  }
  const nearest = ladder[0];
  const close =
    nearest === undefined ? 'the service has no operations' : `closest is ${nearest.operation} (${nearest.on})`;
  return { summary: `no operation has this path; ${close}`, ladder };
}

function explainOperation(operation: CompiledOperation, request: RequestView): ExplainedOperation {
  let answered = false;
  const cases = operation.cases.map((item) => {
    const explained = explainCase(item, request, answered);
    answered ||= explained.outcome === 'answered';
    return explained;
  });
  return { operation: operation.name, on: operation.on, reached: true, address: [], cases };
}

function explainCase(item: CompiledCase, request: RequestView, answeredBefore: boolean): ExplainedCase {
  const conditions = item.conditions.map((condition) => explainCondition(condition, request, isSecretHeader));
  const held = conditions.every((condition) => condition.held);
  return { case: item.name, outcome: answeredBefore ? 'not reached' : held ? 'answered' : 'failed', conditions };
}

function summarize(explained: ExplainedOperation): string {
  const answered = explained.cases.find((item) => item.outcome === 'answered');
  if (answered === undefined) {
    return explained.cases.length === 0
      ? `${explained.operation} has no cases yet`
      : `no case of ${explained.operation} holds`;
  }
  if (answered.conditions.length === 0)
    return `case ${answered.case} of ${explained.operation} answers whatever comes to it`;
  return `case ${answered.case} of ${explained.operation}: all its conditions hold`;
}
