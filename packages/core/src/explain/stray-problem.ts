import type { CompiledService } from '../matching/compile-service.js';
import type { RequestView } from '../request/request-view.js';
import { maskTarget } from '../traffic/mask.js';
import type { ExplainedCondition, ExplainedOperation, Explanation } from './explanation.js';

const MOST_CLOSEST = 3;

/** The 404 problem document (RFC 9457) of a stray: what came closest, and the conditions that failed. */
export function buildStrayProblem(
  explanation: Explanation,
  { name, secrets }: Pick<CompiledService, 'name' | 'secrets'>,
  request: RequestView,
): Record<string, unknown> {
  return {
    type: 'about:blank',
    title: 'No case answers this call',
    status: 404,
    code: 'stray',
    detail: `${request.method} ${maskTarget(request.target, secrets)}: ${explanation.summary}`,
    service: name,
    call: request.id,
    lane: request.lane,
    closest: explanation.ladder
      .flatMap(closestOf)
      .sort((a, b) => a.failed.length - b.failed.length)
      .slice(0, MOST_CLOSEST),
  };
}

interface Closest {
  readonly operation: string;
  readonly case?: string;
  readonly failed: readonly { place: string; wanted: string; found: string; note?: string }[];
}

function closestOf(operation: ExplainedOperation): Closest[] {
  if (!operation.reached)
    return [{ operation: operation.operation, failed: operation.address.filter(({ held }) => !held).map(withoutHeld) }];
  return operation.cases.map((item) => ({
    operation: operation.operation,
    case: item.case,
    failed: failedOf(item.conditions).map(withoutHeld),
  }));
}

/** What failed; of a group that failed also what stands in it and speaks against it. */
function failedOf(conditions: readonly ExplainedCondition[]): readonly ExplainedCondition[] {
  let group: ExplainedCondition | null = null;
  return conditions.filter((condition) => {
    if (condition.depth === undefined) group = condition;
    if (condition.depth === undefined || group === null || group.held) return !condition.held && !group?.held;
    return group.place === 'none' ? condition.held : !condition.held;
  });
}

function withoutHeld({
  held: _held,
  depth: _depth,
  ...rest
}: ExplainedOperation['address'][number]): Closest['failed'][number] {
  const { note, ...condition } = rest;
  return note === undefined ? condition : { ...condition, note };
}
