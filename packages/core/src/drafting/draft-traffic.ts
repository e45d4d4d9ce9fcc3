import { writeServiceFile } from '../definition/write-service-file.js';
import { AppError } from '../errors/app-error.js';
import type { Exchange } from '../traffic/exchange.js';
import { wordsOf } from './case-name.js';
import { createCauseFinder } from './cause.js';
import { chooseExchanges } from './choose-exchanges.js';
import { type CaseClass, classify, heardBody, heardKey } from './classes.js';
import type { Draft, DraftDecision, DraftLevel } from './draft.js';
import { type CaseBody, explainOperation } from './draft-operation.js';
import { changesByItself } from './draft-write.js';
import { emitCases } from './emit-operation.js';
import { type FoundState, findState } from './find-state.js';
import { type Heard, readHeard } from './heard.js';
import { keepMoments } from './keep-moments.js';
import { draftLatencies } from './latencies.js';
import { type Member, sinceName } from './member.js';
import { type GatheredOperation, gatherMembers } from './members.js';
import { addMissingRow, pickRow } from './missing-row.js';
import { findPaths, type PathOverrules } from './path-templates.js';
import { type MixedCases, type PlannedCase, planCases } from './plan-cases.js';
import { findKinds, type RecordKind } from './records.js';
import { buildOperations } from './session.js';
import type { StateSite } from './state-site.js';
import { type Condition, equal } from './tell-apart.js';
import { traceValues, type ValueFlow } from './value-flow.js';

export interface DraftTrafficOptions {
  readonly service: string;
  /** The origin the service is drafted from; null: the one heard most. */
  readonly origin: string | null;
  readonly port: number | null;
  readonly level: DraftLevel;
}

interface PlannedOperation extends GatheredOperation {
  readonly classes: readonly CaseClass[];
  readonly planned: readonly PlannedCase[];
  readonly notes: readonly DraftDecision[];
}

/** A service from the exchanges of a session, in their order. Fails with `file-unreadable` when none can be used. */
export function draftTraffic(exchanges: readonly Exchange[], options: DraftTrafficOptions): Draft {
  const chosen = chooseExchanges(exchanges, options.origin);
  if (chosen.exchanges.length === 0) {
    const from = options.origin === null ? '' : ` from ${options.origin}`;
    throw new AppError('file-unreadable', `nothing that was heard can be drafted${from}`);
  }
  const session = chosen.exchanges.map(readHeard);
  const flow = traceValues(session);
  const overrules: PathOverrules = { literal: new Set(), value: new Set() };
  const paths = findPaths(session, overrules);
  const allKinds = findKinds(paths);
  const operations = buildOperations(paths, allKinds);
  const isGeneral = options.level !== 'as-heard';
  const gathered = gatherMembers(session, operations, isGeneral ? allKinds : [], flow, createCauseFinder(session));
  const planned = gathered.operations.map((operation) => planOperation(operation, gathered.kinds, flow, options.level));
  const state = resolveState(planned, session);
  return writeDraft(planned, state, gathered.starting, { options, chosen, isGeneral, kinds: gathered.kinds });
}

function planOperation(
  gathered: GatheredOperation,
  kinds: readonly RecordKind[],
  flow: ValueFlow,
  level: DraftLevel,
): PlannedOperation {
  const { operation, members, subject } = gathered;
  const notes: DraftDecision[] = [];
  const isGeneral = level !== 'as-heard';
  const bodies: CaseBody[] = isGeneral
    ? explainOperation(members, {
        operation,
        subject,
        kinds,
        explain: { flow, makes: true, counterName: (member) => `${operation.name} ${member}`.trim() },
        isAlive: level === 'alive',
        note: (concluded, evidence) => notes.push({ of: operation.name, concluded, evidence }),
      })
    : members.map(heardBody);
  const keys = isGeneral ? bodies.map((body) => JSON.stringify(body)) : members.map((member) => heardKey(member, flow));
  const classes = classify(members, bodies, keys);
  const keyPlaces = new Set(
    operation.paramNames.flatMap((name, i) => (operation.paramKinds[i] === null ? [] : [`path ${name}`])),
  );
  const known = new Set(kinds.flatMap((kind) => [...kind.keys]));
  const passing = new Map<string, boolean>();
  const isPassing = (place: string): boolean => {
    if (keyPlaces.has(place)) return true;
    const before = passing.get(place);
    if (before !== undefined) return before;
    const having = members.filter((member) => member.features.has(place));
    const isOfSession = (member: Member): boolean => {
      const value = member.features.get(place);
      return (
        known.has(String(value)) || (/^(query|path) /.test(place) && flow.isSentBefore(value, member.heard.position))
      );
    };
    if (subject !== null && place === `row ${subject.kind.key}`) return true;
    if (place.startsWith('age ') && !members.some(changesByItself)) return true;
    const own = !place.startsWith('row') && having.length > 0 && having.every(isOfSession);
    passing.set(place, own);
    return own;
  };
  const features = members.map((member) => member.features);
  const planned = planCases(classes, features, { isGeneral, isPassing }).map((item) => askBefore(item, members));
  return { ...gathered, classes, planned, notes };
}

/** What comes about by itself does so from where it was: the fields it changes are asked for their values before. */
function askBefore(item: PlannedCase, members: readonly Member[]): PlannedCase {
  if (item.kind === 'mixed') return item;
  const own = item.answer.members.map((index) => members[index] as Member);
  if (!own.every(changesByItself)) return item;
  const fields = new Set(own.flatMap((member) => member.effects.flatMap((effect) => [...effect.fields.keys()])));
  const more = [...fields].flatMap((field): Condition[] => {
    const values = new Set(own.map((member) => member.features.get(`row ${field}`)));
    const [value] = values;
    return values.size === 1 && value !== undefined && value !== null ? [equal(`row ${field}`, value)] : [];
  });
  const asked = new Set(item.conditions.map(({ place }) => place));
  return { ...item, conditions: [...more.filter(({ place }) => !asked.has(place)), ...item.conditions] };
}

function resolveState(
  operations: readonly PlannedOperation[],
  session: readonly Heard[],
): FoundState & { siteOf: (planned: MixedCases) => StateSite | null } {
  const sites = new Map<MixedCases, StateSite>();
  const answers = new Map<Heard, { answer: CaseClass; label: string }>();
  for (const { operation, members, planned } of operations) {
    for (const item of planned) {
      if (item.kind === 'mixed') sites.set(item, { operation, members, planned: item });
      const parts = item.kind === 'mixed' ? item.answers : [item.answer];
      const words = planned.length > 1 ? wordsOf(item.conditions) : '';
      const label = [operation.name, words]
        .filter((part) => part !== '')
        .join(' ')
        .slice(0, 50);
      for (const answer of parts)
        for (const index of answer.members) {
          const heard = members[index]?.heard;
          if (heard?.isWrite === true) answers.set(heard, { answer, label });
        }
    }
  }
  const found = findState([...sites.values()], {
    causes: createCauseFinder(session),
    classOf: (write) => answers.get(write) ?? null,
  });
  return { ...found, siteOf: (planned) => sites.get(planned) ?? null };
}

interface WriteScope {
  readonly options: DraftTrafficOptions;
  readonly chosen: ReturnType<typeof chooseExchanges>;
  readonly isGeneral: boolean;
  readonly kinds: readonly RecordKind[];
}

function writeDraft(
  operations: readonly PlannedOperation[],
  state: ReturnType<typeof resolveState>,
  starting: ReadonlyMap<string, readonly Readonly<Record<string, unknown>>[]>,
  { options, chosen, isGeneral, kinds }: WriteScope,
): Draft {
  const decisions: DraftDecision[] = [...chosen.decisions];
  const written: Record<string, unknown> = {};
  let cases = 0;
  const ageing = findAgeing(operations);
  for (const planned of operations) {
    const { operation } = planned;
    decisions.push(describeOperation(planned, isGeneral), ...planned.notes);
    const own = emitCases(planned.planned, {
      operation,
      isGeneral,
      state,
      siteOf: state.siteOf,
      note: (caseName, concluded, evidence) =>
        decisions.push({
          of: caseName === null ? operation.name : `${operation.name} / ${caseName}`,
          concluded,
          evidence,
        }),
      names: new Set(),
    });
    const kept = operation.method === 'GET' ? own : keepMoments(own, ageing);
    const complete = isGeneral ? addMissingRow(kept, planned, operations) : kept;
    const row = pickRow(complete, planned.subject);
    written[operation.name] = { on: operation.on, ...(row === null ? {} : { row }), cases: complete };
    cases += complete.length;
  }
  const text = JSON.stringify(written);
  const datasets = kinds.filter(
    ({ name }) => text.includes(`data.${name}`) || new RegExp(`"(of|into)":"${name}"`).test(text),
  );
  const latencies = draftLatencies(operations.map(({ operation }) => operation));
  const variables = new Map([...state.variables, ...ageing.map((kind) => [sinceName(kind), {}] as const)]);
  const definition = {
    upsetter: 1,
    service: options.service,
    ...(options.port === null ? {} : { listen: { port: options.port } }),
    ...(chosen.origin === null ? {} : { upstream: chosen.origin }),
    ...(variables.size === 0 ? {} : { state: Object.fromEntries(variables) }),
    ...(datasets.length === 0
      ? {}
      : {
          datasets: Object.fromEntries(
            datasets.map((kind) => [kind.name, { key: kind.key, rows: starting.get(kind.name) ?? [] }]),
          ),
        }),
    operations: written,
    ...(latencies.length === 0 ? {} : { upsets: latencies }),
  };
  const heard = chosen.exchanges.length;
  return {
    service: options.service,
    text: writeServiceFile(definition, [
      { path: [], text: `Drafted from ${heard === 1 ? '1 exchange' : `${heard} exchanges`} with ${chosen.origin}` },
      ...operations.map(({ operation }) => ({
        path: ['operations', operation.name],
        text: commentOf(operation.name, decisions),
      })),
    ]),
    operations: operations.length,
    cases,
    decisions,
    unusable: [],
  };
}

/** The kinds whose rows change by themselves some time after they were written. */
function findAgeing(operations: readonly PlannedOperation[]): RecordKind[] {
  const found = operations.flatMap(({ subject, planned }) => {
    const isAsked = planned.some((item) => item.conditions.some(({ place }) => place.startsWith('age ')));
    return isAsked && subject !== null ? [subject.kind] : [];
  });
  return [...new Set(found)];
}

function commentOf(name: string, decisions: readonly DraftDecision[]): string {
  return decisions
    .filter(({ of }) => of === name)
    .map(({ concluded, evidence }) => `${concluded} (${evidence})`)
    .join('\n');
}

function describeOperation(
  { operation, members, classes, planned }: PlannedOperation,
  isGeneral: boolean,
): DraftDecision {
  const calls = `heard ${members.length === 1 ? 'once' : `${members.length} times`}`;
  const evidence = operation.evidence === '' ? calls : `${calls}; ${operation.evidence}`;
  const of = operation.name;
  if (classes.length === 1)
    return { of, concluded: isGeneral ? 'one case makes every answer' : 'always the same answer', evidence };
  const places = [...new Set(planned.flatMap((item) => item.conditions.map(({ place }) => place)))];
  const told = places.length === 0 ? 'which the call does not tell apart' : `told apart by ${places.join(' and ')}`;
  return { of, concluded: `${classes.length} different answers, ${told}`, evidence };
}
