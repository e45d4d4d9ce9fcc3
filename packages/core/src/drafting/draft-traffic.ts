import { requireService } from '../definition/load-service.js';
import { AppError } from '../errors/app-error.js';
import type { Exchange } from '../traffic/exchange.js';
import { wordsOf } from './case-name.js';
import { createCauseFinder } from './cause.js';
import { type ChooseOptions, chooseExchanges } from './choose-exchanges.js';
import { type CaseClass, classify, heardBody, heardKey } from './classes.js';
import { readContractPaths } from './contract-paths.js';
import type { Draft, DraftDecision, DraftLevel } from './draft.js';
import { type CaseBody, explainOperation } from './draft-operation.js';
import { changesByItself } from './draft-write.js';
import { measureFidelity } from './fidelity.js';
import { findState } from './find-state.js';
import { type Heard, readHeard } from './heard.js';
import type { Member } from './member.js';
import { type GatheredOperation, gatherMembers } from './members.js';
import { readOverrules } from './overrules.js';
import { findPaths } from './path-templates.js';
import { type MixedCases, type PlannedCase, planCases } from './plan-cases.js';
import { findKinds, type RecordKind } from './records.js';
import { buildOperations } from './session.js';
import type { StateSite } from './state-site.js';
import { type Condition, equal } from './tell-apart.js';
import { traceValues, type ValueFlow } from './value-flow.js';
import { type PlannedOperation, type ResolvedState, writeDraft } from './write-draft.js';

export interface DraftTrafficOptions extends ChooseOptions {
  readonly service: string;
  readonly port: number | null;
  readonly level: DraftLevel;
  /** An OpenAPI document that names paths, parameters and operations; what it does not have is named from what was heard. */
  readonly contract?: string | null;
  /**
   * Decisions the user overrules, by their ids: `path:/berths/{}` -> `literal`, `path:/berths/free` -> `value`,
   * `records:bookings` -> `no`, `operation:listBookings` -> a level.
   */
  readonly overrules?: ReadonlyMap<string, string>;
}

/** A service from the exchanges of a session, in their order. Fails with `file-unreadable` when none can be used. */
export function draftTraffic(exchanges: readonly Exchange[], options: DraftTrafficOptions): Draft {
  const inOrder = [...exchanges].sort((a, b) => a.index - b.index);
  const chosen = chooseExchanges(inOrder, options);
  if (chosen.exchanges.length === 0) {
    const from = options.origin === null ? '' : ` from ${options.origin}`;
    throw new AppError('file-unreadable', `nothing that was heard can be drafted${from}`);
  }
  const session = chosen.exchanges.map(readHeard);
  const flow = traceValues(session);
  const overrules = readOverrules(options.overrules ?? new Map());
  const paths = findPaths(
    session,
    overrules.paths,
    options.contract == null ? null : readContractPaths(options.contract),
  );
  const allKinds = findKinds(paths).filter(({ name }) => !overrules.noRecords.has(name));
  const operations = buildOperations(paths, allKinds);
  const isGeneral = options.level !== 'as-heard';
  const gathered = gatherMembers(session, operations, isGeneral ? allKinds : [], flow, createCauseFinder(session));
  const planned = gathered.operations.map((operation) =>
    planOperation(operation, gathered.kinds, flow, overrules.levels.get(operation.operation.name) ?? options.level),
  );
  const singles = gathered.kinds.flatMap(({ name, singlePath }) => (singlePath === null ? [] : [name]));
  const state = resolveState(planned, session, singles);
  const draft = writeDraft(planned, state, {
    options,
    chosen,
    isGeneral,
    kinds: gathered.kinds,
    starting: gathered.starting,
  });
  return { ...draft, fidelity: measureFidelity(requireService(draft.text, draft.files), chosen.exchanges) };
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
    operation.paramNames.flatMap((name, i) => (isKind(operation.paramKinds[i], kinds) ? [`path ${name}`] : [])),
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

function isKind(kind: RecordKind | null | undefined, kinds: readonly RecordKind[]): boolean {
  return kind !== null && kind !== undefined && kinds.includes(kind);
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
  taken: readonly string[],
): ResolvedState {
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
    taken,
    writes: session.filter((heard) => heard.isWrite && heard.isSuccess),
    classOf: (write) => answers.get(write) ?? null,
  });
  return { ...found, siteOf: (planned) => sites.get(planned) ?? null };
}
