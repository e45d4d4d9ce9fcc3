import type { CompiledCase } from '../matching/compile-case.js';
import type { CompiledCondition } from '../matching/compile-condition.js';
import type { CompiledOperation, CompiledService } from '../matching/compile-service.js';
import { findOperation } from '../matching/find-operation.js';
import type { RequestView } from '../request/request-view.js';
import { describeContent } from '../soap/soap-address.js';
import type { SecretPlaces } from '../traffic/mask.js';
import { explainCondition, explainLines } from './explain-condition.js';
import type { ExplainedCase, ExplainedOperation, Explanation } from './explanation.js';
import type { FoundValue } from './found-value.js';
import { nearOperations } from './near-operations.js';

/**
 * Explains a request by the very conditions that matching runs: the ladder of its operation, or what came closest to being
 * one. `found`: what conditions on state and rows found when the call was decided.
 */
export function explainCall(
  service: CompiledService,
  request: RequestView,
  found: readonly FoundValue[] | null,
): Explanation {
  const destination = findOperation(service, request);
  if (destination.kind === 'operation') {
    const explained = explainOperation(destination.operation, request, found ?? [], service.secrets);
    return { summary: summarize(explained), ladder: [explained] };
  }
  const ladder = nearOperations(service, request);
  if (destination.kind === 'shared') return { summary: summarizeShared(destination.operations, request), ladder };
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

function explainOperation(
  operation: CompiledOperation,
  request: RequestView,
  found: readonly FoundValue[],
  secrets: SecretPlaces,
): ExplainedOperation {
  let answered = false;
  const cases = operation.cases.map((item) => {
    const explained = explainCase(item, request, answered, found, secrets);
    answered ||= explained.outcome === 'answered';
    return explained;
  });
  return { operation: operation.name, on: operation.on, reached: true, address: [], cases };
}

function explainCase(
  item: CompiledCase,
  request: RequestView,
  answeredBefore: boolean,
  found: readonly FoundValue[],
  secrets: SecretPlaces,
): ExplainedCase {
  const explainLeaf = (condition: CompiledCondition) =>
    condition.needsFrame ? explainFound(condition, item.name, found) : explainCondition(condition, request, secrets);
  const lines = item.conditions.map((condition) => explainLines(condition, explainLeaf));
  const held = lines.every(([first]) => first?.held === true);
  const conditions = lines.flat();
  return { case: item.name, outcome: answeredBefore ? 'not reached' : held ? 'answered' : 'failed', conditions };
}

/** A condition on state or rows is told from what was found at the time. */
function explainFound(
  { place, comparison, id }: CompiledCondition,
  caseName: string,
  found: readonly FoundValue[],
): ExplainedCase['conditions'][number] {
  const then = found.find((value) => value.caseName === caseName && value.place === id);
  return {
    place: place.text,
    wanted: comparison.wanted,
    found: then?.text ?? 'not looked at',
    held: then?.held ?? false,
  };
}

function summarizeShared(operations: readonly CompiledOperation[], request: RequestView): string {
  if (operations.every(({ address }) => address.soap === null))
    return 'no operation with this method and path takes the call: `on` of each says what tells it from the others';
  const envelope = request.envelope();
  if (envelope.kind === 'broken') return envelope.reason;
  return `no SOAP operation at this path takes ${describeContent(request)}`;
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
