import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import { escapeTemplate, escapeTemplates } from '../expression/template.js';
import type { Callers } from './callers.js';
import { readSetCookie } from './credentials.js';
import { draftList } from './draft-list.js';
import { draftSideEffects } from './draft-side-effects.js';
import { draftWrite } from './draft-write.js';
import type { ExplainOptions, Instance, Source } from './explain-source.js';
import { explainText } from './explain-text.js';
import { explainValues } from './explain-value.js';
import { type HeardAnswer, readAnswer } from './heard-answer.js';
import { addLinkedRows } from './linked-rows.js';
import type { Member, SubjectRow } from './member.js';
import { toCamel } from './operation-words.js';
import { ownEffectOf } from './own-effect.js';
import { showExpression, showRow } from './owner.js';
import { namesIn, readKeys } from './quote-keys.js';
import type { RecordKind } from './record-kind.js';
import { listsIn } from './records.js';
import { addRelatedCounts } from './related-counts.js';
import type { HeardOperation } from './session.js';
import { add, addCallSources, addValue } from './sources.js';

/** What one case would say, without its name and conditions. */
export interface CaseBody {
  readonly let?: Readonly<Record<string, unknown>>;
  readonly answer: Readonly<Record<string, unknown>>;
  readonly steps: readonly unknown[];
}

export interface OperationScope {
  readonly operation: HeardOperation;
  readonly subject: SubjectRow | null;
  readonly kinds: readonly RecordKind[];
  /** Who calls; null where the session does not show it. */
  readonly callers: Callers | null;
  readonly explain: ExplainOptions;
  /** Whether lists are read from datasets. */
  readonly isAlive: boolean;
  readonly note: (concluded: string, evidence: string) => void;
}

/** The case body for each member: the same one for all whose answers one explanation covers. */
export function explainOperation(members: readonly Member[], scope: OperationScope): CaseBody[] {
  const bodies: CaseBody[] = new Array(members.length);
  for (const indexes of groupMembers(members, scope)) {
    const group = indexes.map((i) => members[i] as Member);
    explainBest(group, scope).forEach((body, at) => {
      bodies[indexes[at] ?? 0] = body;
    });
  }
  return bodies;
}

/** Members that could be answered by one case: of one status, one form of body, with or without a row, with one kind of effect. */
function groupMembers(members: readonly Member[], scope: OperationScope): number[][] {
  const groups = new Map<string, number[]>();
  members.forEach((member, i) => {
    const answer = readAnswer(member.heard);
    const effect = member.heard.isSuccess ? ownEffectOf(member, scope.subject, collectionOf(scope)).type : 'none';
    const key = JSON.stringify([answer.status, answer.form, member.row !== null, effect, shapeKey(answer.body)]);
    groups.set(key, [...(groups.get(key) ?? []), i]);
  });
  return [...groups.values()];
}

function shapeKey(body: unknown): string {
  if (Array.isArray(body)) return 'list';
  return isJsonMap(body) ? 'map' : typeof body;
}

function collectionOf({ operation }: OperationScope): string | null {
  const last = operation.parts.filter((part) => part !== null).at(-1);
  return last === undefined ? null : toCamel(last);
}

/** Lists that are kept by the places of their rows become expressions where that makes one answer of several. */
function explainBest(members: readonly Member[], scope: OperationScope): CaseBody[] {
  const placed = explainGroup(members, scope);
  if (scope.isAlive || members[0]?.heard.isWrite !== false || countBodies(placed) === 1) return placed;
  const notes: (readonly [string, string])[] = [];
  const listed = explainGroup(members, { ...scope, isAlive: true, note: (...note) => notes.push(note) });
  if (countBodies(listed) > 1) return placed;
  for (const note of notes) scope.note(...note);
  return listed;
}

function countBodies(bodies: readonly CaseBody[]): number {
  return new Set(bodies.map((body) => JSON.stringify(body))).size;
}

function explainGroup(members: readonly Member[], scope: OperationScope): CaseBody[] {
  const { operation, subject, callers, explain } = scope;
  const instances: Instance[] = members.map((member) => {
    const sources = new Map<string, Source>();
    if (member.row !== null && subject !== null) addSubjectRow(sources, subject, member.row);
    addCallSources(sources, member.heard, operation.paramNames);
    if (callers !== null && member.heard.caller !== null) add(sources, callers.read, member.heard.caller, callers.name);
    addRowSources(sources, member, scope.isAlive);
    addLinkedRows(sources, member);
    addRelatedCounts(sources, member.counts);
    return { heard: member.heard, sources };
  });
  const isDone = members[0]?.heard.isSuccess === true;
  const effects = members.map((member) => ownEffectOf(member, subject, collectionOf(scope)));
  const written =
    isDone && effects[0]?.type !== 'none'
      ? draftWrite(members, effects, instances, subject, explain)
      : { lets: members.map(() => ({})), steps: members.map(() => [] as unknown[]) };
  const side = isDone ? draftSideEffects(members, effects, instances, subject, explain) : [];
  const isRead = members[0]?.heard.isWrite === false;
  const lists = scope.isAlive && isDone && isRead ? draftLists(members, instances, scope) : {};
  const explained = explainAnswers(
    members.map((member) => readAnswer(member.heard)),
    instances,
    explain,
  );
  const answers = explained.map((answer, i) => quoteMissing(answer, members[i] as Member, subject));
  return members.map((_, i) => {
    const lets = { ...lists, ...written.lets[i] };
    const steps = [...(written.steps[i] ?? []), ...side];
    const used = dropUnused(lets, answers[i], steps);
    return {
      ...(Object.keys(used).length === 0 ? {} : { let: used }),
      answer: answers[i] as CaseBody['answer'],
      steps,
    };
  });
}

const NOT_FOUND = 404;

/** The refusal of a row that is not there quotes the key that was asked for. */
function quoteMissing(
  answer: Readonly<Record<string, unknown>>,
  { row, heard }: Member,
  subject: SubjectRow | null,
): Readonly<Record<string, unknown>> {
  if (row !== null || subject?.isPath !== true || answer['status'] !== NOT_FOUND || !('json' in answer)) return answer;
  return { ...answer, json: readKeys(answer['json'], namesIn(subject, subject.keysOf(heard)), NOT_FOUND) };
}

/** The row the call speaks of: first as answers show it, then with everything in it. */
function addSubjectRow(sources: Map<string, Source>, { kind, read }: SubjectRow, row: JsonMap): void {
  const shown = showExpression(kind, read);
  if (shown !== read) add(sources, shown, showRow(kind, row), kind.noun);
  addValue(sources, read, row, kind.noun);
}

/** More rows than this are not told apart by their place. */
const MOST_PLACED = 60;

/** The rows there are: their number and, where lists are kept as heard, each of them by its place. */
function addRowSources(sources: Map<string, Source>, member: Member, isAlive: boolean): void {
  for (const [name, rows] of member.rows) {
    add(sources, `size(data.${name})`, rows.length, 'total');
    if (!isAlive)
      for (const [i, row] of rows.slice(0, MOST_PLACED).entries()) add(sources, `data.${name}[${i}]`, row, '');
  }
}

/** A list that nothing reads in the end needs no name. */
function dropUnused(
  lets: Readonly<Record<string, unknown>>,
  answer: unknown,
  steps: readonly unknown[],
): Record<string, unknown> {
  const names = Object.keys(lets).reverse();
  const kept: [string, unknown][] = [];
  for (const name of names) {
    const text = JSON.stringify([answer, steps, kept]);
    if (new RegExp(`\\blet\\.${name}\\b`).test(text)) kept.unshift([name, lets[name]]);
  }
  return Object.fromEntries(kept);
}

/** Names the lists of an answer by `let`, as expressions over datasets, and adds them to the sources. */
function draftLists(
  members: readonly Member[],
  instances: readonly Instance[],
  scope: OperationScope,
): Record<string, unknown> {
  const lets: Record<string, unknown> = {};
  const [first] = members;
  if (first === undefined) return lets;
  for (const { steps } of listsIn(first.heard.answerJson)) {
    const listed = members.map(
      (member) =>
        listsIn(member.heard.answerJson).find((list) => list.steps.join('.') === steps.join('.'))?.items ?? [],
    );
    const kind = kindOfList(members, steps);
    if (kind === null || !listed.flat().every(isJsonMap)) continue;
    const list = draftList(kind, members, listed as (readonly JsonMap[])[], scope);
    if (list === null) {
      scope.note(`the list of ${kind.name} is kept as heard`, 'no filter, order and page explains every answer');
      continue;
    }
    const name = toCamel(kind.name);
    if (list.whole !== null) lets['found'] = `\${${list.whole}}`;
    if (list.cursor !== null) lets['from'] = `\${${list.cursor.from}}`;
    lets[name] = `\${${list.shown}}`;
    scope.note(
      `lists ${list.told}`,
      `holds for ${members.length === 1 ? 'the one answer' : `all ${members.length} answers`}`,
    );
    instances.forEach((instance, i) => {
      const sources = instance.sources as Map<string, Source>;
      const others = [...sources];
      sources.clear();
      add(sources, `let.${name}`, list.values[i], steps.at(-1) ?? '');
      add(sources, `size(let.${list.whole === null ? name : 'found'})`, list.counts[i], 'total');
      if (list.whole !== null) add(sources, `size(let.${name})`, list.values[i]?.length, 'count');
      if (list.cursor !== null) {
        const { text, name: member, values } = list.cursor.next;
        add(sources, text, values[i], member);
      }
      for (const [key, source] of others) sources.set(key, source);
    });
  }
  return lets;
}

/** The kind of the things in a list: what its first sightings are of. */
function kindOfList(members: readonly Member[], steps: readonly string[]): RecordKind | null {
  for (const member of members) {
    const seen = member.sightings.find(
      (sighting) => sighting.steps.length === steps.length + 1 && steps.every((step, i) => sighting.steps[i] === step),
    );
    if (seen !== undefined) return seen.kind;
  }
  return null;
}

/** The answers as a file has them. */
export function explainAnswers(
  answers: readonly HeardAnswer[],
  instances: readonly Instance[],
  explain: ExplainOptions,
): Record<string, unknown>[] {
  const bodies = explainBodies(answers, instances, explain);
  const names = [...new Set(answers.flatMap(({ headers }) => Object.keys(headers)))];
  const headers = answers.map((): Record<string, unknown> => ({}));
  const served = names.includes('etag') && !isTagExplained(answers, instances, explain);
  for (const name of names) {
    if (served && name === 'etag') continue;
    const having = answers.flatMap((answer, i) => (answer.headers[name] === undefined ? [] : [i]));
    const values = having.map((i) => answers[i]?.headers[name] as string | string[]);
    const templates = explainHeader(
      values,
      having.map((i) => instances[i] as Instance),
      explain,
      name,
    );
    having.forEach((i, at) => {
      const own = headers[i];
      if (own !== undefined) own[name] = templates[at];
    });
  }
  return answers.map(({ status, form }, i) => ({
    status,
    ...(Object.keys(headers[i] ?? {}).length > 0 ? { headers: headers[i] } : {}),
    [form]: form === 'none' ? true : bodies[i],
    ...(served && answers[i]?.headers['etag'] !== undefined && form !== 'none' ? { serve: ['etag'] } : {}),
  }));
}

/** Whether entity tags say something of the thing, its version; else they are digests of bodies, made anew. */
function isTagExplained(
  answers: readonly HeardAnswer[],
  instances: readonly Instance[],
  explain: ExplainOptions,
): boolean {
  const having = answers.flatMap(({ headers }, i) => (typeof headers['etag'] === 'string' ? [i] : []));
  const [template, ...others] = explainValues(
    having.map((i) => answers[i]?.headers['etag']),
    having.map((i) => instances[i] as Instance),
    { ...explain, makes: false },
    'etag',
  );
  return typeof template === 'string' && /\$\{/.test(template) && others.every((other) => other === template);
}

function explainBodies(
  answers: readonly HeardAnswer[],
  instances: readonly Instance[],
  explain: ExplainOptions,
): readonly unknown[] {
  const values = answers.map(({ body }) => body);
  const [first] = answers;
  if (first?.form === 'json') return explainValues(values, instances, explain);
  if (first?.form !== 'text') return values;
  const text = explainText(values, instances, explain);
  return values.map((value) => text ?? escapeTemplate(String(value)));
}

/** A header that differs in ways nothing explains keeps its first value: such headers are numbers of calls, hashes, moments. */
function explainHeader(
  values: readonly (string | string[])[],
  instances: readonly Instance[],
  explain: ExplainOptions,
  name: string,
): readonly unknown[] {
  if (!values.every((value) => typeof value === 'string')) return values.map(() => escapeTemplates(values[0]));
  if (name === 'set-cookie') return explainCookies(values, instances, explain);
  const templates = explainValues(values, instances, explain, name);
  const isOne = templates.every((template) => template === templates[0]);
  if (isOne || name === 'location') return templates;
  return values.map(() => escapeTemplates(values[0]));
}

/** A cookie whose value was made on the spot; one that nothing explains keeps its first value. */
function explainCookies(
  values: readonly string[],
  instances: readonly Instance[],
  explain: ExplainOptions,
): readonly unknown[] {
  const cookies = values.map(readSetCookie);
  const [first] = cookies;
  const isOne = cookies.every((cookie) => cookie?.name === first?.name && cookie?.rest === first?.rest);
  if (first === null || first === undefined || !isOne) return values.map(() => escapeTemplates(values[0]));
  const templates = explainValues(
    cookies.map((cookie) => cookie?.value),
    instances,
    explain,
    first.name,
  );
  const [template] = templates;
  if (templates.some((other) => other !== template)) return values.map(() => escapeTemplates(values[0]));
  return values.map(() => `${escapeTemplate(first.name)}=${template}${escapeTemplate(first.rest)}`);
}
