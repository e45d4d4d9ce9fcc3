import { compileData, toEvaluate } from '../answer/compile-data.js';
import type { TextScope } from '../answer/compile-text.js';
import type { MadeRows } from '../definition/dataset.js';
import type { PathKey } from '../definition/yaml-source.js';
import { AppError } from '../errors/app-error.js';
import { Frame } from '../expression/frame.js';
import { RequestView } from '../request/request-view.js';
import { hashText } from './draw.js';
import { Lane } from './lane.js';
import type { Row } from './rows.js';
import { NOTHING_STARTS } from './starting-data.js';

/** Rows between which other work can be done. */
const ROWS_IN_ONE_STEP = 50;

/** Rows made before, by all that they are made from: a service is saved many times while its rows stay as they are. */
const made = new Map<string, readonly Row[]>();
const MOST_KEPT = 8;

/** The rows that `make` describes: the same for the same seed, whenever they are made. What goes wrong is reported. */
export function* makeRows(
  { count, row }: MadeRows,
  dataset: string,
  service: { readonly name: string; readonly seed: string },
  path: readonly PathKey[],
  text: TextScope,
): Generator<undefined, readonly Row[], undefined> {
  const { lexicon, vars, namespaces } = text.names;
  const recipe = JSON.stringify([count, row, dataset, service, lexicon, [...vars], namespaces]);
  const known = made.get(recipe);
  if (known !== undefined) return known;
  const evaluate = toEvaluate(compileData(row, [...path, 'row'], text));
  const lane = new Lane('main', service.seed);
  const nobody = new RequestView('', 'GET', '/', [], 0);
  const rows: Row[] = [];
  for (let i = 0; i < count; i++) {
    const drawHash = hashText(`rows of ${dataset}`, lane.seedHash + i + 1);
    try {
      rows.push(evaluate(new Frame(nobody, lane, service.name, 0, drawHash, NOTHING_STARTS)) as Row);
    } catch (error) {
      if (!(error instanceof AppError)) throw error;
      text.report(`row ${i + 1} cannot be made: ${error.message}`, [...path, 'row']);
      return [];
    }
    if (i % ROWS_IN_ONE_STEP === ROWS_IN_ONE_STEP - 1) yield;
  }
  keep(recipe, rows);
  return rows;
}

function keep(recipe: string, rows: readonly Row[]): void {
  if (made.size >= MOST_KEPT) made.delete(made.keys().next().value ?? '');
  made.set(recipe, rows);
}
