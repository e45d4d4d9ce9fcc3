import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import type { Source } from './explain-source.js';
import type { Heard } from './heard.js';
import { memberExpression } from './leaves.js';
import type { LinkedRow, Member, SubjectRow } from './member.js';
import type { RecordKind } from './record-kind.js';
import { addValue } from './sources.js';
import type { WorldAt } from './world.js';

/** The row of a kind that a value names, as an expression reads it. */
export function readByLink(kind: RecordKind, link: string): string {
  return `data.${kind.name}.filter(other, string(other${memberExpression([kind.key])}) == string(${link}))[0]`;
}

/** The rows that fields of the body, or of the row the call speaks of, name by their keys. */
export function findLinkedRows(
  heard: Heard,
  row: JsonMap | null,
  subject: SubjectRow | null,
  kinds: readonly RecordKind[],
  world: WorldAt,
): LinkedRow[] {
  const named = [...fieldsOf('call.json', heard.sentJson), ...fieldsOf(subject?.read ?? 'row', row)];
  return named.flatMap(({ link, value }) =>
    kinds.flatMap((kind) => {
      const other = kind.singlePath === null ? world.before(kind, value) : null;
      const isOwn = kind === subject?.kind && other === row;
      return other === null || isOwn ? [] : [{ kind, link, row: other }];
    }),
  );
}

function fieldsOf(text: string, value: unknown): { link: string; value: string }[] {
  if (!isJsonMap(value)) return [];
  return Object.entries(value).flatMap(([field, own]) =>
    typeof own === 'string' || typeof own === 'number'
      ? [{ link: text + memberExpression([field]), value: String(own) }]
      : [],
  );
}

/** What is in linked rows may be looked up. */
export function addLinkedRows(sources: Map<string, Source>, { linked }: Member): void {
  for (const { kind, link, row } of linked) addValue(sources, readByLink(kind, link), row, '');
}
