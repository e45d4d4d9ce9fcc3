import type { Comparison } from '../definition/comparison.js';
import type { When } from '../definition/when.js';
import type { CompiledCondition } from '../matching/compile-condition.js';

/** A condition as it stands in the file, beside what it was compiled to. */
export interface AskedCondition {
  readonly key: string;
  readonly said: Comparison | readonly When[];
  readonly compiled: CompiledCondition;
}

/** The conditions of a case, by their keys in the file. */
export function readAsked(
  when: When | undefined,
  compiled: readonly CompiledCondition[],
): ReadonlyMap<string, AskedCondition> {
  return new Map(
    Object.entries(when ?? {}).flatMap(([key, said], i) => {
      const own = compiled[i];
      return own === undefined ? [] : [[key, { key, said, compiled: own }] as const];
    }),
  );
}
