import { entityTagOf, isTagNamed } from '../answer/entity-tag.js';
import { writeExact } from '../json/exact-json.js';
import type { Row } from '../state/rows.js';

/** The entity tag of a row as it is stored. */
export function rowTag(row: Row): string {
  return entityTagOf(writeExact(row));
}

interface Preconditions {
  readonly header: (name: string) => string | undefined;
}

/**
 * Whether `If-Match` or `If-None-Match` of a call does not hold for a row with this tag; null: there is no row.
 * Source: RFC 9110, 13.1.1 (strong comparison: a weak tag is never the same) and 13.1.2 (weak comparison).
 */
export function isStale(request: Preconditions, tag: string | null): boolean {
  const wanted = request.header('if-match');
  if (wanted !== undefined) return tag === null || !(wanted.trim() === '*' || listTags(wanted).includes(tag));
  const unwanted = request.header('if-none-match');
  return unwanted !== undefined && tag !== null && isTagNamed(unwanted, tag);
}

function listTags(header: string): string[] {
  return header.split(',').map((item) => item.trim());
}
