import type { JsonMap } from '../definition/json-map.js';
import type { Callers } from './callers.js';
import type { Source } from './explain-source.js';
import type { Heard } from './heard.js';
import { memberExpression } from './leaves.js';
import { isNamedFor, type RelatedCount, type SubjectRow } from './member.js';
import type { RecordKind } from './record-kind.js';
import { add } from './sources.js';
import type { WorldAt } from './world.js';

/** More rows than this are not counted through at every call. */
const MOST_COUNTED = 2_000;

/** How many rows belong to what a call is about: to the thing its path names, or to who calls. */
export function countRelated(
  heard: Heard,
  subject: SubjectRow | null,
  kinds: readonly RecordKind[],
  callers: Callers | null,
  world: WorldAt,
): RelatedCount[] {
  if (heard.isWrite || !heard.isSuccess) return [];
  return kinds.flatMap((kind) => {
    if (kind.singlePath !== null || kind === subject?.kind) return [];
    const link = linkOf(kind, heard, subject, callers);
    const rows = link === null ? [] : world.rows(kind.name);
    if (link === null || rows.length > MOST_COUNTED) return [];
    const text = `size(data.${kind.name}.filter(item, string(item${memberExpression([link.field])}) == ${link.read}))`;
    const count = rows.filter((row: JsonMap) => String(row[link.field]) === link.key).length;
    return [{ text, count, name: kind.name }];
  });
}

/** The field of its rows that says what they belong to, and how the call names that. */
function linkOf(
  kind: RecordKind,
  heard: Heard,
  subject: SubjectRow | null,
  callers: Callers | null,
): { readonly field: string; readonly read: string; readonly key: string } | null {
  const [owner] = kind.owner?.fields ?? [];
  if (kind.owner?.by === 'caller' && owner !== undefined)
    return callers === null || heard.caller === null ? null : { field: owner, read: callers.read, key: heard.caller };
  if (subject?.isPath !== true || subject.kind.singlePath !== null || subject.kind.owner?.isKey === true) return null;
  const field =
    kind.owner !== null && kind.owner.fields.length === 1
      ? owner
      : [...kind.fields].find((name) => name !== kind.key && isNamedFor(name, subject.kind));
  const [key = ''] = subject.keysOf(heard);
  return field === undefined ? null : { field, read: `string(${subject.expression})`, key };
}

/** What is counted may be shown. */
export function addRelatedCounts(sources: Map<string, Source>, counts: readonly RelatedCount[]): void {
  for (const { text, count, name } of counts) add(sources, text, count, name);
}
