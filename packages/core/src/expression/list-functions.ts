import { defineFunction as define, type ExpressionFunction } from './expression-function.js';
import { type Frame, fail } from './frame.js';
import { needFinite } from './operators.js';
import { isMapValue, needList, needNumber, needText, OMIT, readMember, typeName } from './value.js';

/** Functions over lists and maps. */
export const LIST_FUNCTIONS: Record<string, ExpressionFunction> = {
  merge: define(2, 2, ([value, patch], frame) => mergePatch(value, patch, frame)),
  without: define(2, 9, ([value, ...fields], frame) => {
    if (!isMapValue(value)) return fail(`without needs a map, not ${typeName(value)}`);
    frame.spend(Object.keys(value).length);
    const left = new Set(fields.map((field) => needText(field, 'without')));
    return Object.fromEntries(Object.entries(value).filter(([name]) => !left.has(name)));
  }),
  max: define(1, 1, ([list], frame) => {
    const items = needList(list, 'max').map((item) => needNumber(item, 'max'));
    frame.spend(items.length);
    return items.length === 0 ? null : items.reduce((most, item) => Math.max(most, item));
  }),
  sort: define(1, 2, ([list, field], frame) => sortBy(needList(list, 'sort'), field, frame)),
  reverse: define(1, 1, ([list], frame) => {
    const items = needList(list, 'reverse');
    frame.spend(items.length);
    return [...items].reverse();
  }),
  sum: define(1, 1, ([list], frame) => {
    const items = needList(list, 'sum');
    frame.spend(items.length);
    return needFinite(items.reduce((total: number, item) => total + needNumber(item, 'sum'), 0));
  }),
  slice: define(2, 3, ([list, from, to], frame) => {
    const items = needList(list, 'slice').slice(
      needNumber(from, 'slice'),
      to === undefined ? undefined : needNumber(to, 'slice'),
    );
    frame.spend(items.length);
    return items;
  }),
};

/** JSON Merge Patch (RFC 7396): members of the patch replace, null takes away, maps are merged within. */
function mergePatch(value: unknown, patch: unknown, frame: Frame): unknown {
  if (!isMapValue(patch)) return patch;
  frame.spend(Object.keys(patch).length);
  const merged: Record<string, unknown> = isMapValue(value) ? { ...value } : {};
  for (const [key, member] of Object.entries(patch)) {
    if (member === OMIT) continue;
    if (member === null) delete merged[key];
    else defineMember(merged, key, mergePatch(merged[key], member, frame));
  }
  return merged;
}

/** Also a member called `__proto__` is only a member. */
function defineMember(map: Record<string, unknown>, key: string, value: unknown): void {
  Object.defineProperty(map, key, { value, enumerable: true, configurable: true, writable: true });
}

/** In order of the items themselves, or of one field of them; what has none comes last. The order of equals stays. */
function sortBy(items: readonly unknown[], field: unknown, frame: Frame): unknown[] {
  frame.spend(items.length * Math.ceil(Math.log2(items.length + 2)));
  const name = field === undefined ? null : needText(field, 'sort');
  const keyOf = (item: unknown): unknown => (name === null ? item : name.split('.').reduce(readMember, item));
  return [...items].sort((a, b) => compareValues(keyOf(a), keyOf(b)));
}

function compareValues(a: unknown, b: unknown): number {
  if (a === b) return 0;
  if (a === null || a === undefined) return 1;
  if (b === null || b === undefined) return -1;
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  if (typeof a === 'string' && typeof b === 'string') return a < b ? -1 : 1;
  if (typeof a === 'boolean' && typeof b === 'boolean') return a ? 1 : -1;
  return fail(`sort cannot compare ${typeName(a)} with ${typeName(b)}`);
}
