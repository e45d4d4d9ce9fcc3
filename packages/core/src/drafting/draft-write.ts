import { singularOf } from '../contract/word-forms.js';
import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import { draftBatch } from './draft-batch.js';
import type { DraftedWrite } from './drafted-write.js';
import { explainRows } from './explain-rows.js';
import type { ExplainOptions, Instance, Source } from './explain-source.js';
import { explainValues } from './explain-value.js';
import { gainedItems, lostItems } from './growing-list.js';
import { eachLeaf, isSame, memberExpression } from './leaves.js';
import type { Member, SubjectRow } from './member.js';
import { toCamel } from './operation-words.js';
import type { OwnEffect } from './own-effect.js';
import { showExpression, showRow } from './owner.js';
import type { RecordKind } from './record-kind.js';
import { add, addValue } from './sources.js';

/** Explains what members of one kind of effect did, and adds what they made to the sources of their answers. */
export function draftWrite(
  members: readonly Member[],
  effects: readonly OwnEffect[],
  instances: readonly Instance[],
  subject: SubjectRow | null,
  options: ExplainOptions,
): DraftedWrite {
  const [effect] = effects;
  if (effect === undefined || effect.type === 'none') return nothing(members);
  if (effect.type === 'insert') return draftInsert(effect.kind, effects, members, instances, options);
  if (effect.type === 'batch') return draftBatch(effect.kind, effects, members, instances, options) ?? nothing(members);
  if (subject === null) return nothing(members);
  const { where } = subject;
  if (effect.type === 'remove')
    return subject.kind.singlePath !== null
      ? { lets: members.map(() => ({})), steps: members.map(() => [{ set: { [subject.kind.name]: null } }]) }
      : { lets: members.map(() => ({})), steps: members.map(() => [{ remove: { of: subject.kind.name, where } }]) };
  return draftChange(members, instances, subject, options);
}

function nothing(members: readonly Member[]): DraftedWrite {
  return { lets: members.map(() => ({})), steps: members.map(() => []) };
}

function draftInsert(
  kind: RecordKind,
  effects: readonly OwnEffect[],
  members: readonly Member[],
  instances: readonly Instance[],
  options: ExplainOptions,
): DraftedWrite {
  const rows = effects.map((effect) => (effect.type === 'insert' ? effect.after : {}));
  const name = letName(kind);
  const made = nameMadeKey(kind, rows, instances, options);
  const templates = explainRows(kind, rows, members, instances, options);
  for (const [i, instance] of instances.entries()) putRow(instance, `let.${name}`, rows[i] ?? {}, kind);
  return {
    lets: templates.map((template) => ({ ...made, [name]: template })),
    steps: templates.map(() => [
      kind.singlePath === null
        ? { insert: { into: kind.name, row: `\${let.${name}}` } }
        : { set: { [kind.name]: `\${let.${name}}` } },
    ]),
  };
}

/** A key that is made on the spot and stands in other texts of the row, too (a link to itself), is named before the row. */
function nameMadeKey(
  kind: RecordKind,
  rows: readonly JsonMap[],
  instances: readonly Instance[],
  options: ExplainOptions,
): Readonly<Record<string, unknown>> {
  if (kind.singlePath !== null) return {};
  const keys = rows.map((row) => row[kind.key]);
  const isQuoted = rows.every((row, i) =>
    textsIn(row).some((text) => text !== keys[i] && text.includes(String(keys[i]))),
  );
  if (!isQuoted) return {};
  const [template, ...others] = explainValues(keys, instances, options, kind.key);
  if (typeof template !== 'string' || !MADE.test(template) || others.some((other) => other !== template)) return {};
  const name = toCamel(`${letName(kind)} ${kind.key}`);
  for (const [i, instance] of instances.entries()) putFirst(instance, `let.${name}`, keys[i], kind.key);
  return { [name]: template };
}

const MADE = /\b(next|uuid|pattern)\(/;

function textsIn(row: JsonMap): string[] {
  const texts: string[] = [];
  eachLeaf(row, (value) => {
    if (typeof value === 'string') texts.push(value);
  });
  return texts;
}

function draftChange(
  members: readonly Member[],
  instances: readonly Instance[],
  subject: SubjectRow,
  options: ExplainOptions,
): DraftedWrite {
  const pairs = members.map(({ row, rowAfter }) => ({ before: row ?? {}, after: rowAfter ?? row ?? {} }));
  const isChanged = pairs.some(({ before, after }) => !isSame(before, after));
  if (!isChanged) return nothing(members);
  const { base, rest } = findBase(members, pairs, subject.read);
  const name = letName(subject.kind);
  const gained = explainGains(rest, pairs, instances, subject, options);
  const changes = explainFields(
    rest.filter((field) => !gained.fields.has(field)),
    pairs,
    instances,
    options,
  );
  for (const change of changes) for (const [field, text] of gained.fields) change[field] = text;
  const isPlain = changes.every((change) => Object.keys(change).length === 0);
  for (const [i, instance] of instances.entries()) putRow(instance, `let.${name}`, pairs[i]?.after ?? {}, subject.kind);
  const whole = isPlain ? base : `merge(${base}, let.changes)`;
  return {
    lets: changes.map((change, i) => ({
      ...gained.lets[i],
      ...(isPlain ? {} : { changes: change }),
      [name]: `\${${whole}}`,
    })),
    steps: changes.map(() => [keepRow(subject, `\${let.${name}}`)]),
  };
}

/** Lists within the row that gain one item, or lose the one that the call names. */
function explainGains(
  fields: readonly string[],
  pairs: readonly Pair[],
  instances: readonly Instance[],
  subject: SubjectRow,
  options: ExplainOptions,
): { readonly fields: ReadonlyMap<string, string>; readonly lets: readonly Readonly<Record<string, unknown>>[] } {
  const texts = new Map<string, string>();
  const lets = instances.map((): Record<string, unknown> => ({}));
  for (const field of fields) {
    const before = pairs.map((pair) => pair.before[field]);
    const after = pairs.map((pair) => pair.after[field]);
    const read = `${subject.read}${memberExpression([field])}`;
    const gained = gainedItems(before, after);
    if (gained !== null) {
      const name = toCamel(`added ${singularOf(field)}`);
      const templates = explainValues(gained, instances, options, singularOf(field));
      for (const [i, instance] of instances.entries()) {
        (lets[i] as Record<string, unknown>)[name] = templates[i];
        putFirst(instance, `let.${name}`, gained[i], singularOf(field));
      }
      texts.set(field, `\${${read} + [let.${name}]}`);
      addList(instances, `(${read} + [let.${name}])`, after, field);
      continue;
    }
    const lost = lostItems(before, after);
    const key = lost === null ? null : findNamedKey(lost, instances);
    if (key !== null) {
      const left = `${read}.filter(item, string(item${memberExpression([key.field])}) != ${key.text})`;
      texts.set(field, `\${${left}}`);
      addList(instances, left, after, field);
    }
  }
  return { fields: texts, lets };
}

/** A list as it came to be: other fields may be worked out from it. */
function addList(instances: readonly Instance[], text: string, lists: readonly unknown[], name: string): void {
  for (const [i, { sources }] of instances.entries())
    (sources as Map<string, Source>).set(text, { text, value: lists[i], name });
}

/** The field of the lost items that the path names. */
export function findNamedKey(
  lost: readonly unknown[],
  instances: readonly Instance[],
): { field: string; text: string } | null {
  const [first] = lost;
  if (!isJsonMap(first)) return null;
  for (const field of Object.keys(first)) {
    for (const { text } of instances[0]?.sources.values() ?? []) {
      if (!text.startsWith('call.path.')) continue;
      const isNamed = lost.every(
        (item, i) => isJsonMap(item) && String(item[field]) === instances[i]?.sources.get(text)?.value,
      );
      if (isNamed) return { field, text };
    }
  }
  return null;
}

function keepRow(subject: SubjectRow, row: string): unknown {
  const { name, singlePath } = subject.kind;
  return singlePath === null ? { replace: { of: name, where: subject.where, row } } : { set: { [name]: row } };
}

interface Pair {
  readonly before: JsonMap;
  readonly after: JsonMap;
}

/** What the changed row is made from as a whole, and the fields that this leaves to explain. */
function findBase(
  members: readonly Member[],
  pairs: readonly Pair[],
  read: string,
): { base: string; rest: readonly string[] } {
  const sent = members.map(({ heard }) => heard.sentJson);
  const isPatch = members[0]?.heard.exchange.method !== 'PUT';
  const lands = sent.every(
    (body, i) =>
      isJsonMap(body) &&
      Object.keys(body).length > 0 &&
      Object.entries(body).every(([field, value]) =>
        isSame(pairs[i]?.after[field] ?? null, patched(isPatch, pairs[i]?.before[field], value)),
      ),
  );
  if (!lands) return { base: read, rest: changedFields(pairs) };
  const bodies = sent as JsonMap[];
  const isReplaced =
    members[0]?.heard.exchange.method === 'PUT' &&
    pairs.some(({ before, after }, i) =>
      Object.keys(before).some((field) => !(field in after) && !(field in (bodies[i] ?? {}))),
    );
  const isPut =
    isReplaced ||
    (members[0]?.heard.exchange.method === 'PUT' &&
      pairs.every(({ before }, i) => Object.keys(bodies[i] ?? {}).length >= Object.keys(before).length / 2));
  if (isPut) {
    const kept = new Set(
      pairs.flatMap(({ after }, i) => Object.keys(after).filter((field) => !(field in (bodies[i] ?? {})))),
    );
    return { base: 'call.json', rest: [...kept] };
  }
  const others = pairs.map(({ before, after }, i) =>
    changedFields([{ before, after }]).filter((field) => !(field in (bodies[i] ?? {}))),
  );
  return { base: `merge(${read}, call.json)`, rest: [...new Set(others.flat())] };
}

/** A value as a Merge Patch (RFC 7396) leaves it; what is put replaces. */
function patched(isPatch: boolean, before: unknown, value: unknown): unknown {
  if (!isPatch || !isJsonMap(value) || !isJsonMap(before)) return value;
  const merged: Record<string, unknown> = { ...before };
  for (const [field, own] of Object.entries(value)) merged[field] = patched(true, before[field], own);
  return merged;
}

function changedFields(pairs: readonly Pair[]): string[] {
  const changed = new Set<string>();
  for (const { before, after } of pairs)
    for (const field of new Set([...Object.keys(before), ...Object.keys(after)]))
      if (!isSame(before[field], after[field])) changed.add(field);
  return [...changed];
}

/** The values that fields came to; a field that went away is null, which merging takes away. */
function explainFields(
  fields: readonly string[],
  pairs: readonly Pair[],
  instances: readonly Instance[],
  options: ExplainOptions,
): Record<string, unknown>[] {
  const changes = pairs.map((): Record<string, unknown> => ({}));
  for (const field of fields) {
    const templates = explainValues(
      pairs.map(({ after }) => after[field] ?? null),
      instances,
      options,
      field,
    );
    templates.forEach((template, i) => {
      const change = changes[i];
      if (change !== undefined) change[field] = template;
    });
  }
  return changes;
}

/** Names that expressions can write down; the dataset's own otherwise. */
function letName(kind: RecordKind): string {
  return /^[A-Za-z_]\w*$/.test(kind.noun) ? kind.noun : 'item';
}

/** A row that was just made, as answers show it. */
function putRow(instance: Instance, text: string, row: JsonMap, kind: RecordKind): void {
  putFirst(instance, text, row, kind.noun);
  const shown = showExpression(kind, text);
  if (shown === text) return;
  const sources = instance.sources as Map<string, Source>;
  const others = [...sources];
  sources.clear();
  add(sources, shown, showRow(kind, row), kind.noun);
  for (const [key, source] of others) sources.set(key, source);
}

/** What was just made is the best explanation of what the answer shows. */
function putFirst(instance: Instance, text: string, value: unknown, name: string): void {
  const own = new Map<string, Source>();
  addValue(own, text, value, name);
  const others = [...instance.sources];
  const sources = instance.sources as Map<string, Source>;
  sources.clear();
  for (const [key, source] of [...own, ...others]) sources.set(key, source);
}
