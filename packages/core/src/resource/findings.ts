import type { ResourceOutcome } from '../definition/resource.js';
import type { Row } from '../state/rows.js';

/** One page of a list, as answers read it: `page.rows`, `page.total`, `page.next` ... Addresses are paths with a query; null: there is none. */
export interface Page {
  readonly rows: readonly unknown[];
  /** How many rows there are on all pages. */
  readonly total: number;
  readonly number: number;
  readonly size: number;
  /** How many pages there are. */
  readonly count: number;
  readonly offset: number;
  readonly self: string;
  readonly first: string | null;
  readonly prev: string | null;
  readonly next: string | null;
  readonly last: string | null;
  /** The addresses above as the text of a Link header (RFC 8288). */
  readonly link: string;
  /** Related rows, each once, where they stand beside the list; null: none were asked for. */
  readonly included: readonly unknown[] | null;
}

/** Why a call of a resource was refused, as answers read it. */
export interface Trouble {
  readonly title: string;
  readonly detail: string;
  /** What is wrong with each field; empty: it is not about fields. */
  readonly fields: readonly FieldTrouble[];
}

export interface FieldTrouble {
  readonly field: string;
  /** Where it stands in the body: a JSON Pointer as a URI fragment (RFC 6901, 6). */
  readonly pointer: string;
  readonly detail: string;
}

export interface ResourceFindings {
  readonly page: Page | { readonly included: readonly unknown[] | null } | null;
  readonly trouble: Trouble | null;
}

/** What a call of a resource came to. `row`: as the answer reads it; `tag`: the entity tag of the stored row. */
export interface Outcome {
  readonly kind: ResourceOutcome | 'unchanged';
  readonly row: Row | null;
  readonly findings: ResourceFindings;
  readonly tag: string | null;
  readonly location: string | null;
}

export const PAGE_MEMBERS: readonly string[] = [
  ...['rows', 'total', 'number', 'size', 'count', 'offset'],
  ...['self', 'first', 'prev', 'next', 'last', 'link', 'included'],
];
export const TROUBLE_MEMBERS: readonly string[] = ['title', 'detail', 'fields'];

export function refuseCall(
  kind: ResourceOutcome,
  title: string,
  detail: string,
  fields: readonly FieldTrouble[] = [],
): Outcome {
  return { kind, row: null, findings: { page: null, trouble: { title, detail, fields } }, tag: null, location: null };
}
