import type { ServiceFile } from '../definition/service-file.js';
import { toRowKey } from './row-key.js';
import { Rows } from './rows.js';

/** What every lane of a service starts with: the values its state has and the rows its datasets have until something changes them. */
export interface StartingData {
  readonly state: ReadonlyMap<string, unknown>;
  readonly datasets: ReadonlyMap<string, Rows>;
}

export const NOTHING_STARTS: StartingData = { state: new Map(), datasets: new Map() };

export function buildStartingData(definition: ServiceFile): StartingData {
  if (definition.state === undefined && definition.datasets === undefined) return NOTHING_STARTS;
  return {
    state: new Map(Object.entries(definition.state ?? {})),
    datasets: new Map(
      Object.entries(definition.datasets ?? {}).map(([name, { key, rows }]) => [
        name,
        new Rows(toRowKey(key), rows ?? []),
      ]),
    ),
  };
}
