import type { StartingRows } from './rows.js';

/** What every lane of a service starts with: the values its state has and the rows its datasets have until something changes them. */
export interface StartingData {
  readonly state: ReadonlyMap<string, unknown>;
  readonly datasets: ReadonlyMap<string, StartingRows>;
}

export const NOTHING_STARTS: StartingData = { state: new Map(), datasets: new Map() };
