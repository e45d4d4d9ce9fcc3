import { explainCondition, explainLines } from '../explain/explain-condition.js';
import type { RequestView } from '../request/request-view.js';
import { maskTarget, type SecretPlaces } from '../traffic/mask.js';
import type { NearCall } from './check-result.js';
import type { CallTarget, CompiledCheck, Count } from './compile-check.js';

/** A received call, as checks see it. */
export interface CheckedCall {
  readonly id: string;
  readonly service: string;
  readonly operation: string | null;
  readonly isStray: boolean;
  readonly request: RequestView;
  /** What of it is not shown. */
  readonly secrets: SecretPlaces;
}

/** What a check came to so far. `isFinal`: no later call can change it, so there is nothing more to wait for. */
export interface Verdict {
  readonly holds: boolean;
  readonly isFinal: boolean;
  readonly wanted: string;
  readonly found: string;
  readonly near: readonly NearCall[];
  /** How many calls there are beside those shown. */
  readonly more: number;
}

const MOST_NEAR = 5;

/** Holds one check against the calls of its lane, oldest first. Pure: ask again when more calls have come. */
export function evaluateCheck(check: CompiledCheck, calls: readonly CheckedCall[]): Verdict {
  const { statement } = check;
  switch (statement.kind) {
    case 'times':
      return evaluateTimes(statement, calls);
    case 'strays':
      return evaluateStrays(statement, calls);
    case 'order':
      return evaluateOrder(statement, calls);
  }
}

type Statement<Kind> = Extract<CompiledCheck['statement'], { kind: Kind }>;

function evaluateTimes(statement: Statement<'times'>, calls: readonly CheckedCall[]): Verdict {
  const candidates = calls.filter((call) => isOf(call, statement.of));
  const counted = candidates.filter((call) =>
    statement.conditions.every((condition) => condition.test(call.request, null)),
  );
  const target = renderTarget(statement.of);
  const verdict = judge(counted.length, statement.count);
  const wanted = `${renderCount(statement.count)} of ${target}${describeWhere(statement)}`;
  const found = renderCalls(counted.length);
  if (verdict.holds) return { ...verdict, wanted, found, ...NONE };
  if (counted.length > statement.count.most) return { ...verdict, wanted, found, ...showLast(counted) };
  const others = candidates.filter((call) => !counted.includes(call));
  const near = others
    .map((call) => showCall(call, statement))
    .sort((a, b) => a.differs.length - b.differs.length)
    .slice(0, MOST_NEAR);
  if (near.length > 0 || counted.length > 0)
    return { ...verdict, wanted, found, near, more: others.length - near.length };
  return { ...verdict, wanted, found, ...showLast(calls.filter((call) => call.service === statement.of.service)) };
}

function describeWhere(statement: Statement<'times'>): string {
  if (statement.conditions.length === 0) return '';
  return ` where ${statement.conditions.map(({ place, comparison }) => `${place.text} ${comparison.wanted}`).join(' and ')}`;
}

function evaluateStrays(statement: Statement<'strays'>, calls: readonly CheckedCall[]): Verdict {
  const strays = calls.filter((call) => call.isStray && (statement.of === null || isOf(call, statement.of)));
  const verdict = judge(strays.length, statement.count);
  const place = statement.of === null ? 'any service' : renderTarget(statement.of);
  const wanted = `${renderCount(statement.count)} that no case answers, on ${place}`;
  return { ...verdict, wanted, found: renderCalls(strays.length), ...(verdict.holds ? NONE : showLast(strays)) };
}

function evaluateOrder(statement: Statement<'order'>, calls: readonly CheckedCall[]): Verdict {
  const { targets, strict } = statement;
  const reached = strict ? longestRun(targets, calls) : longestSubsequence(targets, calls);
  const holds = reached === targets.length;
  const wanted = `${targets.map(renderTarget).join(', then ')}${strict ? ', with nothing in between' : ''}`;
  if (holds) return { holds, isFinal: true, wanted, found: 'in this order', ...NONE };
  const missing = targets[reached];
  const after =
    reached === 0
      ? 'was not called'
      : `was not called ${strict ? 'right ' : ''}after ${renderTarget(targets[reached - 1] as CallTarget)}`;
  return {
    holds,
    isFinal: false,
    wanted,
    found: `${missing === undefined ? '' : renderTarget(missing)} ${after}`,
    ...showLast(calls.filter((call) => targets.some((target) => target.service === call.service))),
  };
}

function longestSubsequence(targets: readonly CallTarget[], calls: readonly CheckedCall[]): number {
  let reached = 0;
  for (const call of calls) {
    const target = targets[reached];
    if (target !== undefined && isOf(call, target)) reached++;
  }
  return reached;
}

function longestRun(targets: readonly CallTarget[], calls: readonly CheckedCall[]): number {
  let best = 0;
  for (let start = 0; start < calls.length; start++) {
    let run = 0;
    while (run < targets.length && isAt(calls[start + run], targets[run])) run++;
    best = Math.max(best, run);
  }
  return best;
}

function isAt(call: CheckedCall | undefined, target: CallTarget | undefined): boolean {
  return call !== undefined && target !== undefined && isOf(call, target);
}

function isOf(call: CheckedCall, target: CallTarget): boolean {
  return call.service === target.service && (target.operation === null || call.operation === target.operation);
}

/** Enough settles `least`; too many settles `most`; an exact count has to be watched to the end. */
function judge(found: number, count: Count): { holds: boolean; isFinal: boolean } {
  if (found > count.most) return { holds: false, isFinal: true };
  const holds = found >= count.least;
  return { holds, isFinal: holds && count.most === Number.POSITIVE_INFINITY };
}

const NONE = { near: [], more: 0 } as const;

function showLast(calls: readonly CheckedCall[]): Pick<Verdict, 'near' | 'more'> {
  const near = calls.slice(-MOST_NEAR).map((call) => showCall(call, null));
  return { near, more: calls.length - near.length };
}

function showCall(call: CheckedCall, statement: Statement<'times'> | null): NearCall {
  const explained =
    statement?.conditions.flatMap((condition) =>
      explainLines(condition, (leaf) => explainCondition(leaf, call.request, call.secrets)),
    ) ?? [];
  return {
    id: call.id,
    at: new Date(call.request.receivedAtMs).toISOString(),
    call: `${call.request.method} ${maskTarget(call.request.target, call.secrets)}`,
    operation: call.operation === null ? null : `${call.service}/${call.operation}`,
    stray: call.isStray,
    differs: explained.filter((condition) => !condition.held),
  };
}

function renderTarget(target: CallTarget): string {
  return target.operation === null ? target.service : `${target.service}/${target.operation}`;
}

function renderCount(count: Count): string {
  if (count.least === count.most) return count.most === 0 ? 'no calls' : `exactly ${renderCalls(count.least)}`;
  if (count.most === Number.POSITIVE_INFINITY) return `at least ${renderCalls(count.least)}`;
  return count.least === 0 ? `at most ${renderCalls(count.most)}` : `${count.least} to ${count.most} calls`;
}

function renderCalls(count: number): string {
  return count === 1 ? '1 call' : `${count} calls`;
}
