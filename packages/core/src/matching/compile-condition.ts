import { compileBareExpression, type TextScope } from '../answer/compile-text.js';
import type { Comparison } from '../definition/comparison.js';
import { isBranches, type When } from '../definition/when.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type Frame, fail } from '../expression/frame.js';
import { typeName } from '../expression/value.js';
import type { RequestView } from '../request/request-view.js';
import type { Namespaces } from '../xml/compile-xpath.js';
import { type CompiledComparison, compileComparison } from './comparing/compile-comparison.js';
import { ABSENT, type PathNames, type Place, parsePlace } from './place.js';

/** One line of `when`, ready to run. Matching asks `test`; explaining reads the same place and asks the same `comparison`. */
export interface CompiledCondition {
  readonly place: Place;
  readonly comparison: CompiledComparison;
  /** Reads its place and judges what stands there. The frame is given where `needsFrame` asks for it. */
  readonly test: (request: RequestView, frame: Frame | null) => boolean;
  /** Whether what was read at its place holds; a group has none, and is never asked. */
  readonly judge: (value: unknown, frame: Frame | null) => boolean;
  readonly needsFrame: boolean;
  /** What tells it apart within its case: its place, and the groups it stands in. */
  readonly id: string;
  /** The conditions of a group (`any`, `none`), one list for each of its maps; null: it is none. */
  readonly branches: readonly (readonly CompiledCondition[])[] | null;
}

type Report = (message: string, path: readonly PathKey[], atKey: boolean) => void;

/** What the conditions of a `when` may name. `text` null: neither state nor rows nor expressions can be asked here. */
export interface WhenScope {
  readonly path: PathNames;
  readonly text: TextScope | null;
  readonly namespaces: Namespaces;
}

/** The conditions of a `when`, in file order; problems go to `report` with their place in the file. */
export function compileWhen(
  when: When | undefined,
  scope: WhenScope,
  path: readonly PathKey[],
  report: Report,
  group = '',
): CompiledCondition[] {
  return Object.entries(when ?? {}).flatMap(([key, own]) => {
    const at = [...path, key];
    if (isBranches(own)) {
      const branches = own.map((branch, i) => compileWhen(branch, scope, [...at, i], report, `${group}${key}[${i}] `));
      return [createGroup(key, branches, `${group}${key}`)];
    }
    const condition =
      key === 'expr' ? compileExpr(own, scope.text, at, report) : compileAtPlace(key, own, scope, at, report);
    return condition === null ? [] : [createCondition(condition.place, condition.comparison, group)];
  });
}

interface Asked {
  readonly place: Place;
  readonly comparison: CompiledComparison;
}

function compileAtPlace(
  key: string,
  comparison: Comparison,
  scope: WhenScope,
  at: readonly PathKey[],
  report: Report,
): Asked | null {
  const parsed = parsePlace(key, { ...scope, at });
  if (parsed.kind === 'refused') {
    report(parsed.message, at, true);
    return null;
  }
  const compiled = compileComparison(comparison, parsed.place.domain, { text: scope.text, at });
  if (compiled.kind === 'compiled') return { place: parsed.place, comparison: compiled.comparison };
  report(compiled.refusal.message, [...at, ...compiled.refusal.path], false);
  return null;
}

/** `expr`: a CEL expression that must be true. */
function compileExpr(
  { is, ...others }: Comparison,
  scope: TextScope | null,
  at: readonly PathKey[],
  report: Report,
): Asked | null {
  if (scope === null) {
    report('`expr` cannot be asked here yet', at, true);
    return null;
  }
  if (typeof is !== 'string' || Object.keys(others).length > 0 || is.includes('${')) {
    report('`expr` is a CEL expression, written without ${ }', at, false);
    return null;
  }
  const evaluate = compileBareExpression(is, at, scope);
  const read: Place['read'] = (_request, frame) => {
    const value = frame === null ? fail('`expr` is not known here') : evaluate(frame);
    return typeof value === 'boolean' ? value : fail(`\`expr\` gave ${typeName(value)}, not true or false: ${is}`);
  };
  const place: Place = { text: `expr: ${is}`, domain: 'json', read, needsFrame: true, isMany: false, header: null };
  const compiled = compileComparison({ is: true }, 'json', { text: null, at });
  return compiled.kind === 'compiled' ? { place, comparison: compiled.comparison } : null;
}

function createCondition(place: Place, comparison: CompiledComparison, group: string): CompiledCondition {
  const needsFrame = place.needsFrame || comparison.needsFrame;
  const judge = compileJudge(place, comparison);
  const { read } = place;
  return {
    place,
    comparison,
    test: (request, frame) => judge(read(request, frame), frame),
    judge,
    needsFrame,
    id: `${group}${place.text}`,
    branches: null,
  };
}

const ABSENT_PLACE = { domain: 'json', read: () => ABSENT, needsFrame: false, isMany: false, header: null } as const;

/** `any`: all conditions of one of its maps hold; `none`: of none of them. */
function createGroup(key: string, branches: readonly (readonly CompiledCondition[])[], id: string): CompiledCondition {
  const some: CompiledCondition['test'] = (request, frame) =>
    branches.some((branch) => branch.every(({ test }) => test(request, frame)));
  const isAny = key === 'any';
  return {
    place: { text: key, ...ABSENT_PLACE },
    comparison: {
      holds: null,
      forbids: null,
      every: null,
      wantsPresence: false,
      wantsAbsence: false,
      needsFrame: false,
      wanted: isAny ? `one of ${branches.length} to hold` : 'none to hold',
      wantsNumber: false,
      indexKey: null,
      explain: null,
    },
    test: isAny ? some : (request, frame) => !some(request, frame),
    judge: () => false,
    needsFrame: branches.some((branch) => branch.some((condition) => condition.needsFrame)),
    id,
    branches,
  };
}

/** Whether what was read holds. The usual comparisons ask for one value that does; only those that forbid, or ask every value, look at all. */
function compileJudge({ isMany }: Place, comparison: CompiledComparison): CompiledCondition['judge'] {
  const { wantsAbsence, forbids, every, holds } = comparison;
  if (wantsAbsence) return isMany ? (value) => isNothing(value, true) : (value) => value === ABSENT;
  if (forbids !== null || every !== null) return compileForAll(isMany, comparison);
  if (isMany) {
    return (value, frame) => {
      if (Array.isArray(value)) return holds === null ? value.length > 0 : value.some((item) => holds(item, frame));
      return value !== ABSENT && (holds === null || holds(value, frame));
    };
  }
  if (holds === null) return (value) => value !== ABSENT;
  return (value, frame) => value !== ABSENT && holds(value, frame);
}

/** `isnt` and `not` mean that no value is so, `every` that each one is: where nothing stands, the first two hold. */
function compileForAll(isMany: boolean, comparison: CompiledComparison): CompiledCondition['judge'] {
  const { holds, forbids, every, wantsPresence } = comparison;
  return (value, frame) => {
    const values = isNothing(value, isMany) ? [] : isMany && Array.isArray(value) ? value : [value];
    if (values.length === 0) return !wantsPresence;
    return (
      (holds === null || values.some((item) => holds(item, frame))) &&
      (forbids === null || !values.some((item) => forbids(item, frame))) &&
      (every === null || values.every((item) => every(item, frame)))
    );
  };
}

/** `isMany`: an empty list is no values. */
export function isNothing(value: unknown, isMany: boolean): boolean {
  return value === ABSENT || (isMany && Array.isArray(value) && value.length === 0);
}
