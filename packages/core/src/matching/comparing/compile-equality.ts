import { compileText } from '../../answer/compile-text.js';
import type { Comparison } from '../../definition/comparison.js';
import { isEqual, toText } from '../../expression/value.js';
import { readNumber } from './read-value.js';
import { type ComparisonScope, type Domain, fold, type Refusal, refuse, type ValueTest } from './value-test.js';

/** `is`, `in` and `isnt`. */
export function compileEquality(
  { is, in: list, isnt }: Comparison,
  domain: Domain,
  isCaseless: boolean,
  scope: ComparisonScope,
): { readonly tests: readonly ValueTest[]; readonly isnt: ValueTest | null } | Refusal {
  const compile = (wanted: unknown) => compileWanted(wanted, domain, isCaseless, scope);
  const tests: ValueTest[] = [];
  if (is !== undefined) {
    const test = compile(is);
    if (typeof test === 'string') return refuse(test);
    tests.push(test);
  }
  if (list !== undefined) {
    const each = list.map(compile);
    const refusal = each.find((test) => typeof test === 'string');
    if (refusal !== undefined) return refuse(refusal as string);
    tests.push((value, frame) => (each as ValueTest[]).some((test) => test(value, frame)));
  }
  const other = isnt === undefined ? null : compile(isnt);
  return typeof other === 'string' ? refuse(other, ['isnt']) : { tests, isnt: other };
}

/** A wanted value: as it is written, or what an expression gives on the call. */
function compileWanted(
  wanted: unknown,
  domain: Domain,
  isCaseless: boolean,
  scope: ComparisonScope,
): ValueTest | string {
  if (typeof wanted !== 'string' || !wanted.includes('${')) return compileEqual(wanted, domain, isCaseless);
  if (scope.text === null) return 'an expression cannot stand here yet; write $${ for a literal ${';
  const compiled = compileText(wanted, scope.at, scope.text);
  if (compiled.kind === 'constant') return compileEqual(compiled.text, domain, isCaseless);
  const { evaluate } = compiled;
  const folded = isCaseless ? fold : (value: unknown) => value;
  if (domain === 'json')
    return (value, frame) => frame !== null && isEqual(folded(value), folded(evaluate(frame) ?? null));
  return (value, frame) => {
    const given = frame === null ? null : (evaluate(frame) ?? null);
    return given !== null && folded(value) === folded(toText(given));
  };
}

function compileEqual(wanted: unknown, domain: Domain, isCaseless: boolean): ValueTest | string {
  if (isCaseless) {
    const folded = fold(wanted);
    if (domain === 'json' || typeof wanted === 'string') return (value) => isEqual(fold(value), folded);
  }
  if (domain === 'json')
    return wanted !== null && typeof wanted === 'object'
      ? (value) => isEqual(value, wanted)
      : (value) => value === wanted;
  if (typeof wanted === 'string') return (value) => value === wanted;
  if (typeof wanted === 'number') return (value) => readNumber(value, 'text') === wanted;
  if (typeof wanted === 'boolean') return (value) => value === String(wanted);
  if (wanted === null) return 'a text is never null; write { present: false } for what is not there';
  return 'a text is compared with a text, a number or true/false, not with a list or a map';
}
