import { isJsonMap } from '../definition/json-map.js';
import type { Heard } from './heard.js';
import { isSame } from './leaves.js';
import { unwrap } from './records.js';

/** A list within a row that several writes changed: what it was after each. */
export interface ListStep {
  readonly write: Heard;
  readonly value: readonly unknown[];
}

/**
 * The writes between two sightings of a list that put its new items there, one after the other: those whose answers show
 * the items. Null when the list did not only grow, or an item was shown by none.
 */
export function traceGrowth(before: unknown, after: unknown, writes: readonly Heard[]): ListStep[] | null {
  const old = before ?? [];
  if (!Array.isArray(old) || !Array.isArray(after) || after.length <= old.length) return null;
  if (!old.every((item, i) => isSame(item, after[i]))) return null;
  const steps: ListStep[] = [];
  let from = 0;
  for (let length = old.length + 1; length <= after.length; length++) {
    const item: unknown = after[length - 1];
    const at = writes.findIndex((write, i) => i >= from && showsItem(write, item));
    const write = writes[at];
    if (write === undefined) return null;
    steps.push({ write, value: after.slice(0, length) });
    from = at + 1;
  }
  return steps;
}

function showsItem(write: Heard, item: unknown): boolean {
  if (!isJsonMap(item))
    return isJsonMap(write.sentJson) && Object.values(write.sentJson).some((value) => isSame(value, item));
  return unwrap(write.answerJson).some(([, map]) => isSame(map, item)) || isSame(write.sentJson, item);
}

/** The one item that each list gained at its end; null when some list did not gain exactly one. */
export function gainedItems(before: readonly unknown[], after: readonly unknown[]): readonly unknown[] | null {
  const gained: unknown[] = [];
  for (const [i, value] of after.entries()) {
    const old = before[i] ?? [];
    if (!Array.isArray(old) || !Array.isArray(value) || value.length !== old.length + 1) return null;
    if (!old.every((item, at) => isSame(item, value[at]))) return null;
    gained.push(value.at(-1));
  }
  return gained.length === 0 ? null : gained;
}

/** The items that each list lost, as indexes; null when some list did not lose exactly one. */
export function lostItems(before: readonly unknown[], after: readonly unknown[]): readonly unknown[] | null {
  const lost: unknown[] = [];
  for (const [i, value] of after.entries()) {
    const old = before[i];
    if (!Array.isArray(old) || !Array.isArray(value) || value.length !== old.length - 1) return null;
    const at = old.findIndex((item, index) => !isSame(item, value[index]));
    if (!value.slice(at).every((item, index) => isSame(item, old[at + 1 + index]))) return null;
    lost.push(old[at]);
  }
  return lost.length === 0 ? null : lost;
}
