import type { JsonMap } from '../definition/json-map.js';
import { type Member, type SubjectRow, subjectIn } from './member.js';
import type { RecordKind } from './record-kind.js';

/** The one thing a member did to the rows of its own kind. */
export type OwnEffect =
  | { readonly type: 'insert'; readonly kind: RecordKind; readonly after: JsonMap }
  | { readonly type: 'batch'; readonly kind: RecordKind; readonly rows: readonly JsonMap[] }
  | { readonly type: 'change'; readonly kind: RecordKind }
  | { readonly type: 'remove'; readonly kind: RecordKind }
  | { readonly type: 'none' };

export function ownEffectOf(member: Member, subject: SubjectRow | null, collection: string | null): OwnEffect {
  if (subject?.isPath === true) {
    const identity = subjectIn(subject, member.heard);
    const own = member.effects.find((effect) => effect.kind === subject.kind && effect.identity === identity);
    if (own?.type === 'insert' && own.after !== null) return { type: 'insert', kind: own.kind, after: own.after };
    if (own?.type === 'remove') return { type: 'remove', kind: own.kind };
  }
  const inserts = member.effects.filter((effect) => effect.type === 'insert' && effect.after !== null);
  const insert = inserts.find((effect) => effect.kind.name === collection) ?? inserts[0];
  const batch = insert === undefined ? null : findBatch(member, insert.kind);
  if (insert !== undefined && batch !== null) return { type: 'batch', kind: insert.kind, rows: batch };
  if (insert?.after !== null && insert !== undefined) return { type: 'insert', kind: insert.kind, after: insert.after };
  if (!member.heard.isWrite && !changesByItself(member)) return { type: 'none' };
  return subject?.isPath === true && member.row !== null ? { type: 'change', kind: subject.kind } : { type: 'none' };
}

/** A read that is the first to show a change of its row that no call made: it came about by itself. */
export function changesByItself(member: Member): boolean {
  return !member.heard.isWrite && member.effects.length > 0;
}

/** The rows that one call made, in the order in which its answer lists them; null when it lists none that it made. */
function findBatch({ effects, sightings }: Member, kind: RecordKind): readonly JsonMap[] | null {
  const rows = sightings
    .filter((sighting) => sighting.kind === kind && sighting.steps.some((step) => typeof step === 'number'))
    .flatMap(({ identity }) => {
      const made = effects.find((effect) => effect.kind === kind && effect.identity === identity);
      return made?.type === 'insert' && made.after !== null ? [made.after] : [];
    });
  return rows.length === 0 ? null : rows;
}
