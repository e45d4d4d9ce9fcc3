import { createTextScope, type TextScope } from '../answer/compile-text.js';
import type { DatasetDefinition } from '../definition/dataset.js';
import type { ServiceFile } from '../definition/service-file.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type NamesInScope, ONLY_THE_CALL } from '../expression/compile-context.js';
import { readConstants } from '../json/exact-json.js';
import { makeRows } from './make-rows.js';
import { findMissingField, identifyRow, type RowKey, toRowKey } from './row-key.js';
import { type Row, StartingRows } from './rows.js';
import { NOTHING_STARTS, type StartingData } from './starting-data.js';

type Report = TextScope['report'];
/** What rows that are made may use beside draws. */
type MadeScope = Pick<NamesInScope, 'lexicon' | 'vars' | 'namespaces'>;

/** The state and the rows of a file, in small steps: rows that are made up take a while. */
export function* buildStartingData(
  definition: ServiceFile,
  scope: MadeScope,
  report: Report,
): Generator<undefined, StartingData, undefined> {
  if (definition.state === undefined && definition.datasets === undefined) return NOTHING_STARTS;
  const datasets = new Map<string, StartingRows>();
  for (const [name, dataset] of Object.entries(definition.datasets ?? {})) {
    const rows = yield* readRows(name, dataset, definition, scope, report);
    datasets.set(name, new StartingRows(toRowKey(dataset.key), rows));
  }
  const state = Object.entries(definition.state ?? {}).map(([name, value]) => [name, readConstants(value)] as const);
  return { state: new Map(state), datasets };
}

function* readRows(
  name: string,
  { key, rows: written = [], make }: DatasetDefinition,
  { service, seed }: ServiceFile,
  scope: MadeScope,
  report: Report,
): Generator<undefined, readonly Row[], undefined> {
  const rows = written.map((row) => readConstants(row) as Row);
  const seen = new Set<string>();
  const fields = toRowKey(key);
  const path = ['datasets', name];
  rows.forEach((row, i) => {
    const trouble = keyTrouble(row, fields, name, seen);
    if (trouble !== null) report(trouble, [...path, 'rows', i]);
  });
  if (make === undefined) return rows;
  const at = [...path, 'make'];
  const early = reportMoments(make.row, at, report);
  if (early) return rows;
  const text = createTextScope(report, { ...ONLY_THE_CALL, ...scope });
  const made = yield* makeRows(make, name, { name: service, seed: seed ?? service }, at, text);
  for (const [i, row] of made.entries()) {
    const trouble = keyTrouble(row, fields, name, seen);
    if (trouble === null) continue;
    report(`row ${i + 1} that is made: ${trouble}; next("NAME") and uuid() never give a value twice`, [...at, 'row']);
    break;
  }
  return [...rows, ...made];
}

/** Rows are told apart by their key: one without it, or with that of another, could not be found. */
function keyTrouble(row: Row, key: RowKey, dataset: string, seen: Set<string>): string | null {
  const missing = findMissingField(row, key);
  if (missing !== null) return `this row has no \`${missing}\`, the key of ${dataset}`;
  const own = identifyRow(row, key);
  if (seen.has(own)) return `a second row with \`${key.map((field) => `${field}: ${row[field]}`).join(', ')}\``;
  seen.add(own);
  return null;
}

const MOMENT = /\$\{[^}]*\b(now|call)\b/;

/** Rows are made before any call, and are the same each time. */
function reportMoments(row: Row, path: readonly PathKey[], report: Report): boolean {
  const found = MOMENT.exec(JSON.stringify(row))?.[1];
  if (found === undefined) return false;
  const hint = found === 'now' ? '; write a date, or add("2026-03-01", "36h")' : '';
  report(`rows are made before any call: \`${found}\` is not there${hint}`, [...path, 'row']);
  return true;
}
