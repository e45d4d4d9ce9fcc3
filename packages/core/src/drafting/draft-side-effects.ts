import { singularOf } from '../contract/word-forms.js';
import { findNamedKey } from './draft-write.js';
import type { ExplainOptions, Instance } from './explain-source.js';
import { explainValues } from './explain-value.js';
import { gainedItems, lostItems } from './growing-list.js';
import { memberExpression } from './leaves.js';
import { readByLink } from './linked-rows.js';
import { type Member, type SubjectRow, subjectIn } from './member.js';
import type { OwnEffect } from './own-effect.js';
import type { RecordKind } from './record-kind.js';

/** Changes of rows of other kinds: which row is meant is read from the call, the row or what was made. */
export function draftSideEffects(
  members: readonly Member[],
  effects: readonly OwnEffect[],
  instances: readonly Instance[],
  subject: SubjectRow | null,
  options: ExplainOptions,
): unknown[] {
  const kinds = new Map<RecordKind, number[]>();
  members.forEach((member, i) => {
    for (const effect of member.effects)
      if (isSide(effect, effects[i], member, subject)) kinds.set(effect.kind, [...(kinds.get(effect.kind) ?? []), i]);
  });
  return [...kinds].flatMap(([kind, indexes]) => {
    const own = [...new Set(indexes)];
    const touched = own.map((i) =>
      members[i]?.effects.find(
        (effect) => effect.kind === kind && isSide(effect, effects[i], members[i] as Member, subject),
      ),
    );
    if (kind.singlePath !== null || kind.owner?.isKey === true || touched.some((effect) => effect?.type !== 'change'))
      return [];
    const part = { members: own.map((i) => members[i] as Member), instances: own.map((i) => instances[i] as Instance) };
    const keys = touched.map((effect) => effect?.key ?? '');
    const link = findLink(keys, part.instances, kind);
    if (link === null) return [];
    const isSubject =
      kind === subject?.kind && keys.every((key, i) => subjectIn(subject, (part.members[i] as Member).heard) === key);
    const read = isSubject ? subject.read : readByLink(kind, link.slice(2, -1));
    const to = explainFields(touched as readonly TouchedRow[], part, read, options);
    return to === null ? [] : [{ change: { of: kind.name, where: { [kind.key]: link }, to } }];
  });
}

interface Part {
  readonly members: readonly Member[];
  readonly instances: readonly Instance[];
}

type TouchedRow = Member['effects'][number];

/** What the fields came to, one template for all; null when one explanation does not cover them. `row`: how the row is read. */
function explainFields(
  touched: readonly TouchedRow[],
  part: Part,
  row: string,
  options: ExplainOptions,
): Record<string, unknown> | null {
  const to: Record<string, unknown> = {};
  for (const field of new Set(touched.flatMap((effect) => [...effect.fields.keys()]))) {
    const values = touched.map((effect) => effect.fields.get(field) ?? null);
    const before = touched.map((effect) => effect.before?.[field]);
    const list = explainList(field, before, values, part, row, options);
    const templates = list === null ? explainValues(values, part.instances, options, field) : [list];
    if (templates.some((template) => JSON.stringify(template) !== JSON.stringify(templates[0]))) return null;
    to[field] = templates[0];
  }
  return to;
}

/** A list within a row that gained what was made, or lost what the path names. */
function explainList(
  field: string,
  before: readonly unknown[],
  after: readonly unknown[],
  { instances }: Part,
  row: string,
  options: ExplainOptions,
): string | null {
  const read = `${row}${memberExpression([field])}`;
  const gained = gainedItems(before, after);
  if (gained !== null) {
    const [template, ...others] = explainValues(gained, instances, options, singularOf(field));
    const text = typeof template === 'string' ? /^\$\{([^{}]+)\}$/.exec(template)?.[1] : undefined;
    return text === undefined || others.some((other) => other !== template) ? null : `\${${read} + [${text}]}`;
  }
  const lost = lostItems(before, after);
  const key = lost === null ? null : findNamedKey(lost, instances);
  return key === null ? null : `\${${read}.filter(item, string(item${memberExpression([key.field])}) != ${key.text})}`;
}

function isSide(
  effect: Member['effects'][number],
  own: OwnEffect | undefined,
  member: Member,
  subject: SubjectRow | null,
): boolean {
  if ((own?.type === 'insert' || own?.type === 'batch') && effect.type === 'insert' && effect.kind === own.kind)
    return false;
  const isOwn = own?.type === 'change' || own?.type === 'remove';
  return !(
    isOwn &&
    subject !== null &&
    effect.kind === subject.kind &&
    effect.identity === subjectIn(subject, member.heard)
  );
}

/** The expression that gives the key of the row that is meant, in every instance. */
function findLink(keys: readonly string[], instances: readonly Instance[], kind: RecordKind): string | null {
  const [first] = instances;
  if (first === undefined) return null;
  const fitting = [...first.sources.values()].filter(({ text }) =>
    instances.every(({ sources }, i) => {
      const value = sources.get(text)?.value;
      return value !== null && typeof value !== 'object' && value !== undefined && String(value) === keys[i];
    }),
  );
  const named = fitting.find(({ name }) => name.toLowerCase().startsWith(kind.noun.toLowerCase()));
  const best = named ?? fitting[0];
  return best === undefined ? null : `\${${best.text}}`;
}
