import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import { headerOf } from '../traffic/exchange.js';
import type { Callers } from './callers.js';
import type { CauseFinder } from './cause.js';
import { addRowFeatures, readFeatures } from './features.js';
import type { Heard } from './heard.js';
import { memberExpression, type Scalar } from './leaves.js';
import { findLinkedRows } from './linked-rows.js';
import { agePlace, isNamedFor, type Member, type SubjectRow, subjectIn } from './member.js';
import { toCamel } from './operation-words.js';
import { keyFields, showExpression } from './owner.js';
import type { RecordKind } from './record-kind.js';
import { countRelated } from './related-counts.js';
import { findSightings, type RowHistory, type Sighting, traceRows } from './row-history.js';
import type { HeardOperation } from './session.js';
import { keyAt } from './tell-apart.js';
import { addUnseenEffects } from './unseen-effects.js';
import type { ValueFlow } from './value-flow.js';
import { playHistory, type WorldAt } from './world.js';

export interface GatheredOperation {
  readonly operation: HeardOperation;
  readonly subject: SubjectRow | null;
  readonly members: readonly Member[];
}

export interface Gathered {
  readonly operations: readonly GatheredOperation[];
  readonly kinds: readonly RecordKind[];
  readonly starting: RowHistory['starting'];
}

interface Place {
  readonly operation: HeardOperation;
  readonly sightings: readonly Sighting[];
}

interface TracedValues {
  readonly flow: ValueFlow;
  readonly causes: CauseFinder;
  readonly callers: Callers | null;
}

/** Every exchange with its operation and the rows around it. Kinds whose rows are not rows (one key, several answers) are left out. */
export function gatherMembers(
  session: readonly Heard[],
  operations: readonly HeardOperation[],
  allKinds: readonly RecordKind[],
  { flow, causes, callers }: TracedValues,
): Gathered {
  const operationOf = new Map(
    operations.flatMap((operation) => operation.heard.map((heard) => [heard, operation] as const)),
  );
  const kinds = allKinds.filter((kind) => !isTable(kind, operations));
  const places = session.map((heard): Place => {
    const operation = operationOf.get(heard) as HeardOperation;
    return { operation, sightings: kinds.length === 0 ? [] : findSightings(heard, operation, kinds) };
  });
  const traced = traceRows(
    session.map((heard, i) => ({
      heard,
      operation: places[i]?.operation.name ?? '',
      sightings: places[i]?.sightings ?? [],
    })),
    flow,
    causes,
  );
  const members = new Map<HeardOperation, Member[]>(operations.map((operation) => [operation, []]));
  const subjects = new Map(operations.map((operation) => [operation, subjectOf(operation, kinds, callers)]));
  const calls = session.map((heard, i) => ({ heard, ...(places[i] as Place) }));
  const history = addUnseenEffects(traced, calls, (operation) => subjects.get(operation) ?? null);
  const touchedAtMs = new Map<string, number>();
  const begun = new Set<string>();
  playHistory(history, kinds, session.length, (position, world) => {
    const heard = session[position] as Heard;
    const { operation, sightings } = places[position] as Place;
    const subject = subjects.get(operation) ?? null;
    const member = toMember(heard, operation, subject, sightings, kinds, callers, world, begun);
    if (callers !== null && heard.caller !== null) member.features.set(callers.place, heard.caller);
    if (!heard.isWrite && subject !== null) addAge(member.features, subject, touchedAtMs, heard);
    members.get(operation)?.push(member);
    if (heard.isWrite)
      for (const { kind, identity } of world.effects) touchedAtMs.set(`${kind.name} ${identity}`, heard.atMs);
  });
  return {
    operations: operations.map((operation) => ({
      operation,
      subject: subjects.get(operation) ?? null,
      members: members.get(operation) ?? [],
    })),
    kinds,
    starting: history.starting,
  };
}

const MS_PER_SECOND = 1000;

/** How long ago the row was last written, in seconds: what comes about by itself takes its time. */
function addAge(
  features: Map<string, Scalar>,
  subject: SubjectRow,
  touchedAtMs: ReadonlyMap<string, number>,
  heard: Heard,
): void {
  const atMs = touchedAtMs.get(`${subject.kind.name} ${subjectIn(subject, heard)}`);
  if (atMs !== undefined) features.set(agePlace(subject), (heard.atMs - atMs) / MS_PER_SECOND);
}

function subjectOf(
  operation: HeardOperation,
  kinds: readonly RecordKind[],
  callers: Callers | null,
): SubjectRow | null {
  for (let index = operation.parts.length - 1; index >= 0; index--) {
    const kind = operation.paramKinds[index] ?? null;
    if (kind === null) continue;
    if (!kinds.includes(kind)) return null;
    return subjectAt(kind, index, operation, callers);
  }
  const path = operation.parts.join('/');
  const single = kinds.find(
    ({ singlePath }) => singlePath !== null && (path === singlePath || path.startsWith(`${singlePath}/`)),
  );
  if (single !== undefined)
    return {
      kind: single,
      expression: '',
      keysOf: () => [],
      where: {},
      isPath: true,
      read: `state.${single.name}`,
    };
  return findMentioned(operation, kinds);
}

/** The row whose key stands at one place of the path, and those of its owners before it. */
function subjectAt(
  kind: RecordKind,
  index: number,
  { paramNames }: HeardOperation,
  callers: Callers | null,
): SubjectRow {
  const fields = keyFields(kind);
  const own = fields.map((field, i) => {
    if (callers !== null && kind.owner?.by === 'caller' && field !== kind.key)
      return { field, text: callers.read, keyOf: ({ caller }: Heard) => caller ?? '' };
    const place = index - 2 * (fields.length - 1 - i);
    return { field, text: `call.path.${paramNames[place]}`, keyOf: ({ segments }: Heard) => segments[place] ?? '' };
  });
  return {
    kind,
    expression: `call.path.${paramNames[index]}`,
    keysOf: (heard) => own.map(({ keyOf }) => keyOf(heard)),
    where: Object.fromEntries(own.map(({ field, text }) => [field, `\${${text}}`])),
    isPath: true,
    read: 'row',
  };
}

/** A member of the bodies sent that holds keys of another kind: a booking's `berthId`. */
function findMentioned(operation: HeardOperation, kinds: readonly RecordKind[]): SubjectRow | null {
  const votes = new Map<string, { kind: RecordKind; field: string; count: number }>();
  for (const { sentJson } of operation.heard) {
    if (!isJsonMap(sentJson)) continue;
    for (const [field, value] of Object.entries(sentJson)) {
      if (typeof value !== 'string' && typeof value !== 'number') continue;
      for (const kind of kinds) {
        if (
          kind.singlePath !== null ||
          kind.owner?.isKey === true ||
          !kind.keys.has(String(value)) ||
          !isNamedFor(field, kind)
        )
          continue;
        const id = `${kind.name} ${field}`;
        const vote = votes.get(id) ?? { kind, field, count: 0 };
        vote.count++;
        votes.set(id, vote);
      }
    }
  }
  const best = [...votes.values()].sort((a, b) => b.count - a.count)[0];
  if (best === undefined) return null;
  const { kind, field } = best;
  const expression = `call.json${memberExpression([field])}`;
  return {
    kind,
    expression,
    keysOf: ({ sentJson }) => [isJsonMap(sentJson) ? String(sentJson[field] ?? '') : ''],
    where: { [kind.key]: `\${${expression}}` },
    isPath: false,
    read: 'row',
  };
}

function toMember(
  heard: Heard,
  operation: HeardOperation,
  subject: SubjectRow | null,
  sightings: readonly Sighting[],
  kinds: readonly RecordKind[],
  callers: Callers | null,
  world: WorldAt,
  begun: Set<string>,
): Member {
  const identity = subject === null ? '' : subjectIn(subject, heard);
  const row = subject === null ? null : world.before(subject.kind, identity);
  const features = readFeatures(heard, operation.paramNames);
  if (subject?.kind.singlePath === null) addRowFeatures(features, row);
  addTwinFeatures(features, heard, operation, kinds, world);
  if (subject !== null) addTagFeature(features, heard, subject);
  const listed = new Set(sightings.map(({ kind }) => kind.name));
  const isList = !heard.isWrite && heard.isSuccess;
  const rows = new Map<string, readonly JsonMap[]>();
  if (isList)
    for (const kind of kinds)
      if (listed.has(kind.name) || isEmptyList(heard, operation, kind)) rows.set(kind.name, world.rows(kind.name));
  return {
    heard,
    features,
    row,
    rowAfter: subject === null ? null : world.after(subject.kind, identity),
    effects: world.effects.map((effect) => ({
      ...effect,
      before: world.before(effect.kind, effect.identity),
      after: world.after(effect.kind, effect.identity),
    })),
    sightings,
    rows,
    highestKey: findHighestKey(world, begun),
    linked: findLinkedRows(heard, row, subject, kinds, world),
    counts: countRelated(heard, subject, kinds, callers, world),
  };
}

const PRECONDITION_FAILED = 412;

/** Whether the caller had seen the row as it is (RFC 9110, 13.1.1): the answer said so. */
function addTagFeature(features: Map<string, Scalar>, heard: Heard, { kind, read }: SubjectRow): void {
  const isFailed = heard.exchange.status === PRECONDITION_FAILED;
  if (!isFailed || headerOf(heard.exchange.requestHeaders, 'if-match') === null) return;
  const sent = "call.headers['if-match']";
  features.set(`expr (${sent} != null && ${sent} != etag(${showExpression(kind, read)}))`, true);
}

/** The highest number that is a key among the rows with the same owner as the first one that is made of them. */
function findHighestKey({ effects, rows, after }: WorldAt, begun: Set<string>): number {
  const made = effects.find(({ type }) => type === 'insert');
  const row = made === undefined ? null : after(made.kind, made.identity);
  if (made === undefined || row === null) return 0;
  const { kind } = made;
  const fields = keyFields(kind).slice(0, -1);
  const id = JSON.stringify([kind.name, ...fields.map((field) => row[field])]);
  if (begun.has(id)) return 0;
  begun.add(id);
  return rows(kind.name)
    .filter((other) => fields.every((field) => other[field] === row[field]))
    .reduce((most, other) => Math.max(most, Number(other[kind.key]) || 0), 0);
}

/** More rows than this are not looked through for one that is like what was sent. */
const MOST_COMPARED = 2_000;

/** Whether a row of the collection already has a value that is sent: what is to be unique, or taken once. */
function addTwinFeatures(
  features: Map<string, Scalar>,
  heard: Heard,
  operation: HeardOperation,
  kinds: readonly RecordKind[],
  world: WorldAt,
): void {
  const { sentJson } = heard;
  const kind = kinds.find(({ name }) => name === toCamel(operation.parts.at(-1) ?? ''));
  if (!heard.isWrite || kind === undefined || !isJsonMap(sentJson)) return;
  const rows = world.rows(kind.name);
  if (rows.length > MOST_COMPARED) return;
  for (const [field, value] of Object.entries(sentJson)) {
    if (typeof value !== 'string' && typeof value !== 'number') continue;
    if (!kind.fields.has(field) || !rows.some((row) => row[field] === value)) continue;
    const read = memberExpression([field]);
    features.set(`expr data.${kind.name}.exists(item, item${read} == call.json${read})`, true);
  }
}

/** A list with nothing in it shows nothing, but is of the kind its path names. */
function isEmptyList(_heard: Heard, operation: HeardOperation, kind: RecordKind): boolean {
  return operation.parts.some(
    (part) => part !== null && part.replaceAll(/[^A-Za-z0-9]/g, '').toLowerCase() === kind.name.toLowerCase(),
  );
}

/** Whether a key is answered differently by what the query says, with no write in the path's own words: a table, not rows. */
function isTable(kind: RecordKind, operations: readonly HeardOperation[]): boolean {
  const reads = operations.filter(
    ({ method, parts, paramKinds }) =>
      method === 'GET' && parts.at(-1) === null && paramKinds.at(-1)?.name === kind.name,
  );
  return reads.some((operation) => {
    const byKey = new Map<string, Map<string, Set<string>>>();
    for (const heard of operation.heard) {
      if (!heard.isSuccess || heard.query.size === 0) continue;
      const key = heard.segments.at(-1) ?? '';
      const queries = byKey.get(key) ?? new Map<string, Set<string>>();
      byKey.set(key, queries);
      const query = keyAt(new Map(heard.query), [...heard.query.keys()]);
      queries.set(query, (queries.get(query) ?? new Set()).add(heard.exchange.body?.content ?? ''));
    }
    return [...byKey.values()].some(
      (queries) =>
        queries.size > 1 &&
        [...queries.values()].every((answers) => answers.size === 1) &&
        new Set([...queries.values()].map((answers) => [...answers][0])).size > 1,
    );
  });
}
