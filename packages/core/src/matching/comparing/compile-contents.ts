import { compileText } from '../../answer/compile-text.js';
import type { Comparison } from '../../definition/comparison.js';
import { isEqual, isMapValue, toText } from '../../expression/value.js';
import { type ComparisonScope, fold, type Refusal, refuse, type ValueTest } from './value-test.js';

type CompileOne = (comparison: Comparison) => { readonly test: ValueTest } | Refusal;

/** `has` and `size`: what is in a value, and how much. */
export function compileContents(
  { has, size }: Comparison,
  isCaseless: boolean,
  scope: ComparisonScope,
  compileOne: CompileOne,
): { readonly tests: readonly ValueTest[] } | Refusal {
  const tests: ValueTest[] = [];
  if (has !== undefined) {
    const test = compileHas(has, isCaseless, scope);
    if (typeof test === 'string') return refuse(test, ['has']);
    tests.push(test);
  }
  if (size === undefined) return { tests };
  const compiled = compileOne(size);
  if ('message' in compiled) return { ...compiled, path: ['size', ...compiled.path] };
  tests.push((value, frame) => {
    const count = sizeOf(value);
    return count !== null && compiled.test(count, frame);
  });
  return { tests };
}

/** Characters of a text, items of a list, members of a map; null: it has no size. */
function sizeOf(value: unknown): number | null {
  if (typeof value === 'string') return [...value].length;
  if (Array.isArray(value)) return value.length;
  return isMapValue(value) ? Object.keys(value).length : null;
}

function compileHas(wanted: unknown, isCaseless: boolean, scope: ComparisonScope): ValueTest | string {
  const folded = isCaseless ? fold : (value: unknown) => value;
  if (typeof wanted !== 'string' || !wanted.includes('${')) {
    const own = folded(wanted);
    return (value) => includes(folded(value), own);
  }
  if (scope.text === null) return 'an expression cannot stand here yet; write $${ for a literal ${';
  const compiled = compileText(wanted, scope.at, scope.text);
  if (compiled.kind === 'constant') return (value) => includes(folded(value), folded(compiled.text));
  return (value, frame) => {
    const own = frame === null ? null : (compiled.evaluate(frame) ?? null);
    return own !== null && includes(folded(value), folded(own));
  };
}

/** A text contains a text; a list holds an item; a map has all members of another one, and as much in those. */
function includes(value: unknown, wanted: unknown): boolean {
  if (typeof value === 'string') return wanted !== null && typeof wanted !== 'object' && value.includes(toText(wanted));
  if (Array.isArray(value))
    return value.some((item) => isEqual(item, wanted) || (isMapValue(wanted) && covers(item, wanted)));
  return isMapValue(value) && covers(value, wanted);
}

function covers(value: unknown, wanted: unknown): boolean {
  if (!isMapValue(value) || !isMapValue(wanted)) return isEqual(value, wanted);
  return Object.entries(wanted).every(([key, own]) => Object.hasOwn(value, key) && covers(value[key], own));
}
