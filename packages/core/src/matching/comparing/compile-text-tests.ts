import type { Comparison } from '../../definition/comparison.js';
import { tryCompileRegex } from '../../expression/functions.js';
import { matchLike } from './like.js';
import { type Refusal, refuse, type ValueTest } from './value-test.js';

/** `like`, `regex`, `starts` and `ends`: of texts only. */
export function compileTextTests(
  { like, regex, starts, ends }: Comparison,
  isCaseless: boolean,
): { readonly tests: readonly ValueTest[] } | Refusal {
  const tests: ValueTest[] = [];
  const fold = isCaseless ? (text: string): string => text.toLowerCase() : (text: string): string => text;
  const add = (test: (text: string) => boolean): void => {
    tests.push((value) => typeof value === 'string' && test(fold(value)));
  };
  if (like !== undefined) {
    const pattern = fold(like);
    add((text) => matchLike(text, pattern));
  }
  if (starts !== undefined) {
    const wanted = fold(starts);
    add((text) => text.startsWith(wanted));
  }
  if (ends !== undefined) {
    const wanted = fold(ends);
    add((text) => text.endsWith(wanted));
  }
  if (regex === undefined) return { tests };
  const compiled = tryCompileRegex(isCaseless ? `(?i)${regex}` : regex);
  if (compiled === null)
    return refuse(
      `/${regex}/ is no regular expression that runs in linear time (back references and look-around are not)`,
    );
  tests.push((value) => typeof value === 'string' && compiled.test(value));
  return { tests };
}
