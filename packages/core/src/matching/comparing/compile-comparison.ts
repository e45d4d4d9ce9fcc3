import type { Comparison } from '../../definition/comparison.js';
import { compileBoundaries } from './compile-boundaries.js';
import { compileContents } from './compile-contents.js';
import { compileEquality } from './compile-equality.js';
import { compileFits } from './compile-fits.js';
import { compileTextTests } from './compile-text-tests.js';
import { describeComparison, hasExpression } from './describe-comparison.js';
import { type ComparisonScope, type Domain, joinTests, type Refusal, refuse, type ValueTest } from './value-test.js';

/**
 * A comparison as closures over one value. Where several values stand, one has to be as `holds` says, none as `forbids`
 * says, and each as `every` says; null: nothing is asked.
 */
export interface CompiledComparison {
  readonly holds: ValueTest | null;
  readonly forbids: ValueTest | null;
  readonly every: ValueTest | null;
  /** Something has to stand there, whatever it is. */
  readonly wantsPresence: boolean;
  /** `present: false`: no value may stand there. */
  readonly wantsAbsence: boolean;
  /** Whether it compares with an expression, which needs the frame of the call. */
  readonly needsFrame: boolean;
  /** As a person would say it: `N7`, `like N*`, `from 2 to 5`. */
  readonly wanted: string;
  /** It compares with a number: a text of digits at a JSON place does not do. */
  readonly wantsNumber: boolean;
  /** The one text (or JSON scalar) wanted, when equality is all there is: what cases can be indexed by. */
  readonly indexKey: string | number | boolean | null;
  /** What of a value does not fit, where a schema is asked; null: nothing does not. */
  readonly explain: ((value: unknown) => string | null) | null;
}

export type ComparisonResult =
  | { readonly kind: 'compiled'; readonly comparison: CompiledComparison }
  | { readonly kind: 'refused'; readonly refusal: Refusal };

/** Compiles the tests of one comparison for a place: text places compare as text (numbers and true/false by value), JSON keeps types. */
export function compileComparison(comparison: Comparison, domain: Domain, scope: ComparisonScope): ComparisonResult {
  if (comparison.present === false && Object.keys(comparison).length > 1)
    return refused(refuse('`present: false` stands alone: what is not there cannot be compared', ['present']));
  const compiled = compileTests(comparison, domain, scope);
  return 'message' in compiled ? refused(compiled) : { kind: 'compiled', comparison: compiled };
}

function refused(refusal: Refusal): ComparisonResult {
  return { kind: 'refused', refusal };
}

function compileTests(comparison: Comparison, domain: Domain, scope: ComparisonScope): CompiledComparison | Refusal {
  const isCaseless = comparison.caseless === true;
  const fits = compileFits(comparison);
  if (fits !== null && 'message' in fits) return fits;
  const equality = compileEquality(comparison, domain, isCaseless, scope);
  const contents = compileContents(comparison, isCaseless, scope, (own) => compileOne(own, 'json', scope));
  const nested = compileNested(comparison, domain, scope);
  const parts = [equality, compileTextTests(comparison, isCaseless), contents, compileBoundaries(comparison, domain)];
  const refusal = [...parts, nested].find((part): part is Refusal => part !== null && 'message' in part);
  if (refusal !== undefined) return refusal;
  const tests = [...(parts as { readonly tests: readonly ValueTest[] }[]).flatMap((part) => part.tests)];
  if (fits !== null) tests.push(fits.test);
  const { forbids, every } = nested as NestedTests;
  const { isnt } = equality as { readonly isnt: ValueTest | null };
  const forbidden = [isnt, forbids].filter((test) => test !== null);
  const holds = joinTests(tests);
  return {
    holds,
    forbids: forbidden.length === 0 ? null : (value, frame) => forbidden.some((test) => test(value, frame)),
    every,
    wantsPresence: comparison.present === true || holds !== null || every !== null,
    wantsAbsence: comparison.present === false,
    needsFrame: hasExpression(comparison),
    wanted: describeComparison(comparison),
    wantsNumber: [comparison.above, comparison.below, comparison.from, comparison.to].some(
      (limit) => typeof limit === 'number',
    ),
    indexKey: findIndexKey(comparison, domain),
    explain: fits?.explain ?? null,
  };
}

interface NestedTests {
  readonly forbids: ValueTest | null;
  readonly every: ValueTest | null;
}

function compileNested(comparison: Comparison, domain: Domain, scope: ComparisonScope): NestedTests | Refusal {
  const found: { forbids: ValueTest | null; every: ValueTest | null } = { forbids: null, every: null };
  for (const [key, into] of [
    ['not', 'forbids'],
    ['every', 'every'],
  ] as const) {
    const own = comparison[key];
    if (own === undefined) continue;
    const compiled = compileOne(own, domain, scope);
    if ('message' in compiled) return { ...compiled, path: [key, ...compiled.path] };
    found[into] = compiled.test;
  }
  return found;
}

/** A comparison as the test of one value that is there. */
function compileOne(
  comparison: Comparison,
  domain: Domain,
  scope: ComparisonScope,
): { readonly test: ValueTest } | Refusal {
  if (comparison.present !== undefined)
    return refuse('whether something is there is asked outside: `present: false`', ['present']);
  const compiled = compileTests(comparison, domain, scope);
  if ('message' in compiled) return compiled;
  const { holds, forbids, every } = compiled;
  return {
    test: (value, frame) =>
      (holds === null || holds(value, frame)) &&
      (forbids === null || !forbids(value, frame)) &&
      (every === null || every(value, frame)),
  };
}

function findIndexKey(comparison: Comparison, domain: Domain): CompiledComparison['indexKey'] {
  const { is } = comparison;
  if (is === undefined || Object.keys(comparison).length > 1) return null;
  if (typeof is === 'string') return is.includes('${') ? null : is;
  return domain === 'json' && (typeof is === 'number' || typeof is === 'boolean') ? is : null;
}
