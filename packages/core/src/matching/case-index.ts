import type { RequestView } from '../request/request-view.js';
import type { CompiledCondition } from './compile-condition.js';
import type { Place } from './place.js';

/** Which cases of an operation can hold for a request at all, in file order, as positions in the list of cases. */
export type CaseIndex = (request: RequestView) => readonly number[];

/** Below this many cases, trying each is as fast as looking one up. */
const FEWEST_TO_INDEX = 4;

/**
 * Cases told apart by equality at one place are found by a map: value -> the cases that want it, joined in file order
 * with the cases that do not ask. Null when there is nothing to gain.
 */
export function buildCaseIndex(cases: readonly (readonly CompiledCondition[])[]): CaseIndex | null {
  if (cases.length < FEWEST_TO_INDEX) return null;
  const place = mostAsked(cases);
  if (place === null) return null;
  const byValue = new Map<unknown, number[]>();
  const others: number[] = [];
  cases.forEach((conditions, i) => {
    const key = keyAt(conditions, place.text);
    if (key === null) others.push(i);
    else byValue.set(key, [...(byValue.get(key) ?? []), i]);
  });
  const joined = new Map(
    [...byValue].map(([key, positions]) => [key, [...positions, ...others].sort((a, b) => a - b)]),
  );
  const all = cases.map((_, i) => i);
  return (request) => {
    const value = place.read(request, null);
    return Array.isArray(value) ? all : (joined.get(value) ?? others);
  };
}

function mostAsked(cases: readonly (readonly CompiledCondition[])[]): Place | null {
  const counts = new Map<string, { place: Place; count: number }>();
  for (const condition of cases.flat()) {
    if (condition.comparison.indexKey === null || condition.needsFrame) continue;
    const entry = counts.get(condition.place.text) ?? { place: condition.place, count: 0 };
    entry.count++;
    counts.set(condition.place.text, entry);
  }
  const best = [...counts.values()].sort((a, b) => b.count - a.count)[0];
  return best !== undefined && best.count >= FEWEST_TO_INDEX ? best.place : null;
}

function keyAt(conditions: readonly CompiledCondition[], placeText: string): unknown {
  return conditions.find((condition) => condition.place.text === placeText)?.comparison.indexKey ?? null;
}
