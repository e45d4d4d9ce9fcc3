import type { TextScope } from '../answer/compile-text.js';
import { findNearest } from '../definition/nearest.js';
import type { RowPick } from '../definition/row-pick.js';
import type { PathKey } from '../definition/yaml-source.js';
import type { Frame } from '../expression/frame.js';
import { compileWhere, type EvaluateWhere } from './compile-where.js';
import { findRow, type Row } from './rows.js';

/** How the row that a call speaks of is found. */
export interface CompiledRowPick {
  readonly dataset: string;
  readonly where: EvaluateWhere;
}

/** `row: { of: vessels, where: { imo: "${call.path.imo}" } }`, of an operation or of an answer. */
export function compileRowPick(pick: RowPick, path: readonly PathKey[], scope: TextScope): CompiledRowPick {
  const { datasets } = scope.names;
  if (!datasets.includes(pick.of)) scope.report(describeUnknownDataset(pick.of, datasets), [...path, 'of']);
  return { dataset: pick.of, where: compileWhere(pick.where, [...path, 'where'], scope) };
}

/** The first row that is meant; null: there is none. */
export function pickRow(frame: Frame, { dataset, where }: CompiledRowPick): Row | null {
  const rows = frame.lane.data.rows(dataset, frame.start);
  return rows === null ? null : findRow(rows, where(frame));
}

export function describeUnknownDataset(name: string, datasets: readonly string[]): string {
  const nearest = findNearest(name, datasets);
  return `there is no dataset \`${name}\`${nearest === null ? '' : `; did you mean \`${nearest}\`?`}`;
}
