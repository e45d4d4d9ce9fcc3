import type { Features } from './features.js';
import type { Heard } from './heard.js';
import type { JsonMap } from './leaves.js';
import type { RecordKind } from './records.js';
import type { RowEffect, Sighting } from './row-history.js';

/** One exchange of an operation, with the rows as they were around it. */
export interface Member {
  readonly heard: Heard;
  readonly features: Features;
  /** The row the path speaks of, before and after; null when there is none. */
  readonly row: JsonMap | null;
  readonly rowAfter: JsonMap | null;
  readonly effects: readonly (RowEffect & { readonly after: JsonMap | null })[];
  readonly sightings: readonly Sighting[];
  /** All rows, before, of the kinds that are counted or listed here. */
  readonly rows: ReadonlyMap<string, readonly JsonMap[]>;
}

/** What an operation's path speaks of: the row of its last parameter that is a key. */
export interface SubjectRow {
  readonly kind: RecordKind;
  readonly paramName: string;
  readonly index: number;
}
