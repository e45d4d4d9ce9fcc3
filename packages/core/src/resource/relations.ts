import type { RelationDefinition } from '../definition/resource.js';
import type { Frame } from '../expression/frame.js';
import { identify, type RowKey } from '../state/row-key.js';
import { findRow, type Row } from '../state/rows.js';

/** Rows of another dataset that belong to those of this one. */
export interface Relation {
  readonly name: string;
  readonly of: string;
  /** Pairs of a field of the other dataset and ours that is the same. */
  readonly pairs: readonly (readonly [theirs: string, ours: string])[];
  readonly isMany: boolean;
  readonly always: boolean;
}

/** One row belongs to it where its whole key is named, otherwise a list does, unless the file says which. */
export function compileRelation(name: string, definition: RelationDefinition, key: RowKey): Relation {
  const pairs = Object.entries(definition.where);
  const isWhole = key.every((field) => Object.hasOwn(definition.where, field));
  return {
    name,
    of: definition.of,
    pairs,
    isMany: definition.many ?? !isWhole,
    always: definition.always ?? false,
  };
}

/** Finds what belongs to each of some rows: a row or null, or a list of rows. */
export function relateRows(frame: Frame, relation: Relation): (row: Row) => Row | null | readonly Row[] {
  const { of, pairs, isMany } = relation;
  const others = frame.lane.data.rows(of, frame.start);
  if (others === null) return () => (isMany ? [] : null);
  if (!isMany)
    return (row) =>
      findRow(
        others,
        pairs.map(([theirs, ours]) => [theirs, row[ours] ?? NEVER] as const),
      );
  let grouped: Map<string, Row[]> | null = null;
  return (row) => {
    grouped ??= groupBy(
      others.list(),
      pairs.map(([theirs]) => theirs),
    );
    return grouped.get(identify(pairs.map(([, ours]) => row[ours]))) ?? [];
  };
}

/** Is the same as no value. */
const NEVER = {};

function groupBy(rows: readonly Row[], fields: readonly string[]): Map<string, Row[]> {
  const groups = new Map<string, Row[]>();
  for (const row of rows) {
    const own = identify(fields.map((field) => row[field]));
    const group = groups.get(own);
    if (group === undefined) groups.set(own, [row]);
    else group.push(row);
  }
  return groups;
}
