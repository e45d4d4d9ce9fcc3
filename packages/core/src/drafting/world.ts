import type { JsonMap } from '../definition/json-map.js';
import { identityOf } from './owner.js';
import type { RecordKind } from './record-kind.js';
import type { RowEffect, RowHistory } from './row-history.js';

/** The rows of each kind as they were around one exchange. Rows are never changed in place. */
export interface WorldAt {
  readonly before: (kind: RecordKind, identity: string) => JsonMap | null;
  readonly after: (kind: RecordKind, identity: string) => JsonMap | null;
  /** All rows of a kind before the exchange, in order of arrival. */
  readonly rows: (kindName: string) => readonly JsonMap[];
  readonly effects: readonly RowEffect[];
}

const NO_EFFECTS: readonly RowEffect[] = [];
const NO_ROWS: readonly JsonMap[] = [];

/**
 * Plays the history of the rows from the start: `visit` is called for each position in order with the rows around it.
 * What `rows` and `before` give is only good during the call; the row objects stay.
 */
export function playHistory(
  history: RowHistory,
  kinds: readonly RecordKind[],
  length: number,
  visit: (position: number, world: WorldAt) => void,
): void {
  const tables = new Map(kinds.map((kind) => [kind.name, startTable(kind, history)]));
  const lists = new Map<string, readonly JsonMap[]>();
  for (let position = 0; position < length; position++) {
    const effects = history.effects.get(position) ?? NO_EFFECTS;
    const changed = effects.map(
      (effect) => [effect, applyEffect(tables.get(effect.kind.name)?.get(effect.identity), effect)] as const,
    );
    visit(position, {
      before: (kind, identity) => tables.get(kind.name)?.get(identity) ?? null,
      after: (kind, identity) => {
        const own = changed.find(([effect]) => effect.kind === kind && effect.identity === identity);
        return own === undefined ? (tables.get(kind.name)?.get(identity) ?? null) : own[1];
      },
      rows: (name) => {
        const known = lists.get(name) ?? [...(tables.get(name)?.values() ?? NO_ROWS)];
        lists.set(name, known);
        return known;
      },
      effects,
    });
    for (const [effect, row] of changed) {
      const table = tables.get(effect.kind.name);
      if (row === null) table?.delete(effect.identity);
      else table?.set(effect.identity, row);
      lists.delete(effect.kind.name);
    }
  }
}

function startTable(kind: RecordKind, { starting }: RowHistory): Map<string, JsonMap> {
  return new Map((starting.get(kind.name) ?? []).map((row) => [identityOf(kind, row), row]));
}

function applyEffect(row: JsonMap | undefined, { type, fields }: RowEffect): JsonMap | null {
  if (type === 'remove') return null;
  const merged: Record<string, unknown> = { ...row };
  for (const [field, value] of fields) {
    if (value === undefined) delete merged[field];
    else merged[field] = value;
  }
  return merged;
}
