import type { JsonMap } from '../definition/json-map.js';
import { identify } from '../state/row-key.js';
import type { Heard } from './heard.js';
import type { Scalar } from './leaves.js';
import type { RecordKind } from './record-kind.js';
import type { RowEffect, Sighting } from './row-history.js';

/** One exchange of an operation, with the rows as they were around it. */
export interface Member {
  readonly heard: Heard;
  readonly features: Map<string, Scalar>;
  /** The row the path speaks of, before and after; null when there is none. */
  readonly row: JsonMap | null;
  readonly rowAfter: JsonMap | null;
  readonly effects: readonly (RowEffect & { readonly before: JsonMap | null; readonly after: JsonMap | null })[];
  readonly sightings: readonly Sighting[];
  /** All rows, before, of the kinds that are counted or listed here. */
  readonly rows: ReadonlyMap<string, readonly JsonMap[]>;
  /** Where a row is the first that was made of its kind, or of its owner: the highest number that is a key there; else 0. */
  readonly highestKey: number;
  /** Rows, before, that fields of what was sent or of the row name by their keys. */
  readonly linked: readonly LinkedRow[];
  readonly counts: readonly RelatedCount[];
}

/** How many rows of a kind belong to what a call is about: the expression that counts them, and what it gave. */
export interface RelatedCount {
  readonly text: string;
  readonly count: number;
  readonly name: string;
}

/** A row of another thing that a call names by its key. */
export interface LinkedRow {
  readonly kind: RecordKind;
  /** The expression that gives the key. */
  readonly link: string;
  readonly row: JsonMap;
}

/** The row an operation speaks of: of the last key in its path, else of a key in the bodies sent to it. */
export interface SubjectRow {
  readonly kind: RecordKind;
  /** The expression that reads the key: `call.path.bookingId`, `call.json.berthId`. */
  readonly expression: string;
  /** Its key, with those of its owners before it where it takes them: the values of `where`, in order. */
  readonly keysOf: (heard: Heard) => readonly string[];
  /** The fields that tell the row apart, with the texts that read them from the call. */
  readonly where: Readonly<Record<string, string>>;
  /** Whether the path names it: then the call is about this row; else it only mentions it. */
  readonly isPath: boolean;
  /** How expressions read the row: `row`, or the state of a thing that is one of its kind. */
  readonly read: string;
}

/** What the row a call speaks of is known by. */
export function subjectIn(subject: SubjectRow, heard: Heard): string {
  return subject.kind.singlePath === null ? identify(subject.keysOf(heard)) : '';
}

/** The place of a row's age: `age jobSince call.path.jobNo`. It stands for an expression over the state that keeps the moment. */
export function agePlace(subject: SubjectRow): string {
  return `age ${sinceName(subject.kind)} ${subject.expression}`;
}

/** The state that keeps when rows of a kind were last written. */
export function sinceName(kind: RecordKind): string {
  return `${kind.noun}Since`;
}

/** `berthId`, `berth_id`, `berth` for berths; or the key's own name. */
export function isNamedFor(field: string, kind: RecordKind): boolean {
  const own = field.replaceAll(/[^A-Za-z0-9]/g, '').toLowerCase();
  const noun = kind.noun.toLowerCase();
  return (
    own === noun ||
    own === `${noun}id` ||
    own === `${noun}${kind.key}`.toLowerCase() ||
    (own === kind.key.toLowerCase() && own !== 'id')
  );
}
