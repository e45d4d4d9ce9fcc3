import type { JsonMap } from '../definition/json-map.js';

export type Scalar = string | number | boolean | null;

/** Calls `visit` with each scalar of a JSON value and the steps that lead to it. */
export function eachLeaf(
  value: unknown,
  visit: (scalar: Scalar, steps: readonly (string | number)[]) => void,
  steps: readonly (string | number)[] = [],
): void {
  if (value === undefined) return;
  if (value === null || typeof value !== 'object') {
    visit(value as Scalar, steps);
    return;
  }
  if (Array.isArray(value)) {
    for (const [i, item] of value.entries()) eachLeaf(item, visit, [...steps, i]);
    return;
  }
  for (const [key, member] of Object.entries(value)) eachLeaf(member, visit, [...steps, key]);
}

/** Each map within a JSON value, outermost first; `visit` says whether to look inside as well. */
export function eachMap(
  value: unknown,
  visit: (map: JsonMap, steps: readonly (string | number)[]) => boolean,
  steps: readonly (string | number)[] = [],
): void {
  if (value === null || typeof value !== 'object') return;
  if (Array.isArray(value)) {
    for (const [i, item] of value.entries()) eachMap(item, visit, [...steps, i]);
    return;
  }
  if (!visit(value as JsonMap, steps)) return;
  for (const [key, member] of Object.entries(value)) eachMap(member, visit, [...steps, key]);
}

const PLAIN = /^[A-Za-z_]\w*$/;

/** A member read in an expression: `.name`, or `['odd name']`. */
export function memberExpression(steps: readonly (string | number)[]): string {
  return steps
    .map((step) => (typeof step === 'number' ? `[${step}]` : PLAIN.test(step) ? `.${step}` : `[${quote(step)}]`))
    .join('');
}

/** A text as an expression writes it. */
export function quote(text: string): string {
  return `'${text.replaceAll('\\', '\\\\').replaceAll("'", "\\'").replaceAll('\n', '\\n').replaceAll('\r', '\\r')}'`;
}

/** The same JSON value; maps are the same when their members come in the same order, as one program writes them. */
export function isSame(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  return JSON.stringify(a) === JSON.stringify(b);
}
