import { isDeepStrictEqual } from 'node:util';
import type { CompiledService, Lanes } from '@upsetter/core';

/** A lane that goes on with rows of its own though their dataset is another now. */
export interface KeptRows {
  readonly lane: string;
  readonly dataset: string;
}

const MOST_TOLD = 100;

/** The lanes that keep rows of datasets which a save changed. */
export function findKeptRows(before: CompiledService, after: CompiledService, lanes: Lanes): readonly KeptRows[] {
  const now = after.definition.datasets ?? {};
  const changed = Object.keys(now).filter(
    (name) => !isDeepStrictEqual(now[name], before.definition.datasets?.[name]) && isSameKey(before, after, name),
  );
  if (changed.length === 0) return [];
  return lanes
    .list()
    .flatMap((lane) => {
      const { rows } = lane.changed();
      return changed.filter((dataset) => rows[dataset] !== undefined).map((dataset) => ({ lane: lane.name, dataset }));
    })
    .slice(0, MOST_TOLD);
}

/** With another key, rows of before cannot be found: the lane begins with those of the file. */
function isSameKey(before: CompiledService, after: CompiledService, name: string): boolean {
  return isDeepStrictEqual(before.start.datasets.get(name)?.key, after.start.datasets.get(name)?.key);
}
