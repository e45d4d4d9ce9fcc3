import { isBranches } from '../definition/when.js';
import type { CompiledOperation, CompiledService } from '../matching/compile-service.js';
import { type AskedCondition, readAsked } from './asked-condition.js';
import { implies, literalsOf } from './implies.js';
import { isEmptyRange, rangeOf } from './number-range.js';

/** A case that no call ever gets to. */
export interface UnreachableCase {
  readonly operation: string;
  readonly case: string;
  /** The case before it that holds whenever this one does; null: its own conditions contradict each other. */
  readonly by: string | null;
  readonly message: string;
}

type Asked = ReadonlyMap<string, AskedCondition>;

/** So many pairs of cases are compared in one service; beyond, only what is free is said. */
const MOST_PAIRS = 1_000_000;

/** Found once for a compiled service. */
const found = new WeakMap<CompiledService, readonly UnreachableCase[]>();

/** The cases of a service that can never answer, with why: found by comparing conditions, so that what it cannot tell it does not say. */
export function findUnreachable(service: CompiledService): readonly UnreachableCase[] {
  const known = found.get(service);
  if (known !== undefined) return known;
  let pairs = 0;
  const cases = service.operations.flatMap((operation) => {
    pairs += operation.cases.length ** 2 / 2;
    return findInOperation(operation, pairs <= MOST_PAIRS);
  });
  found.set(service, cases);
  return cases;
}

function findInOperation(operation: CompiledOperation, areCompared: boolean): UnreachableCase[] {
  const { name, cases } = operation;
  const all = cases.map(({ conditions, definition }) => readAsked(definition.when, conditions));
  const always = all.findIndex((asked) => asked.size === 0);
  return cases.flatMap((item, i): UnreachableCase[] => {
    const own = all[i] as Asked;
    const head = { operation: name, case: item.name };
    const never = contradictionOf(own, operation);
    if (never !== null) return [{ ...head, by: null, message: `never holds: ${never}` }];
    const at = always >= 0 && always < i ? always : areCompared ? all.slice(0, i).findIndex((b) => covers(b, own)) : -1;
    const by = cases[at]?.name;
    if (by === undefined) return [];
    const why = all[at]?.size === 0 ? 'it takes whatever comes' : 'its conditions hold whenever these do';
    return [{ ...head, by, message: `never answers: ${by} stands before it, and ${why}` }];
  });
}

/** Whether the earlier case holds whenever the later one does: each of its conditions follows from one of the later's. */
function covers(earlier: Asked, later: Asked): boolean {
  if (earlier.size > later.size + ALWAYS_THERE.length) return false;
  for (const [key, condition] of earlier) {
    const own = later.get(key);
    if (own !== undefined ? !implies(own, condition) : !isAlwaysSo(condition)) return false;
  }
  return true;
}

const ALWAYS_THERE = ['method', 'path', 'lane'];

/** A parameter of the path is always there. */
function isAlwaysSo({ key, said }: AskedCondition): boolean {
  const isThere = ALWAYS_THERE.includes(key.split(' ', 1)[0] ?? '');
  return isThere && !isBranches(said) && said.present === true && Object.keys(said).length === 1;
}

/** Why no call can meet the conditions of a case; null: one may. */
function contradictionOf(asked: Asked, { address }: CompiledOperation): string | null {
  for (const { key, said, compiled } of asked.values()) {
    if (isBranches(said) || compiled.needsFrame) continue;
    const range = rangeOf(said);
    if (range !== null && isEmptyRange(range)) return `${key} ${compiled.comparison.wanted} leaves nothing`;
    const { holds } = compiled.comparison;
    const values = literalsOf(said, { key, said, compiled }, said);
    if (values !== null && holds !== null && !values.some((value) => holds(value, null)))
      return `${key} ${compiled.comparison.wanted} contradicts itself`;
    if (key !== 'method' || address.method === '*' || holds === null) continue;
    const methods = address.method === 'GET' ? ['GET', 'HEAD'] : [address.method];
    if (!methods.some((method) => holds(method, null))) return `the operation is called with ${methods.join(' or ')}`;
  }
  return null;
}
