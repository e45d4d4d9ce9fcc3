import { headerOf } from '../traffic/exchange.js';
import type { Callers } from './callers.js';
import type { CauseFinder } from './cause.js';
import { type CaseClass, classify, heardBody, heardKey } from './classes.js';
import type { DraftDecision, DraftLevel } from './draft.js';
import { type CaseBody, explainOperation } from './draft-operation.js';
import type { Member } from './member.js';
import type { GatheredOperation } from './members.js';
import { changesByItself } from './own-effect.js';
import { findPassingPlaces } from './passing-places.js';
import { planCases } from './plan-cases.js';
import type { PlannedCase } from './planned-case.js';
import type { RecordKind } from './record-kind.js';
import { type RepeatedCalls, splitRepeated } from './repeated-calls.js';
import { type Condition, equal } from './tell-apart.js';
import type { ValueFlow } from './value-flow.js';

/** An operation with the cases that were found for it. */
export interface PlannedOperation extends GatheredOperation {
  readonly classes: readonly CaseClass[];
  readonly planned: readonly PlannedCase[];
  readonly notes: readonly DraftDecision[];
  /** Calls that were sent again; null when there are none. */
  readonly repeated: RepeatedCalls | null;
}

interface PlanScope {
  readonly flow: ValueFlow;
  readonly callers: Callers | null;
  readonly causes: CauseFinder;
}

/** The cases of one operation: what its answers are made of, which belong together, what tells them apart. */
export function planOperation(
  gathered: GatheredOperation,
  kinds: readonly RecordKind[],
  { flow, callers, causes }: PlanScope,
  level: DraftLevel,
): PlannedOperation {
  const { operation, subject } = gathered;
  const notes: DraftDecision[] = [];
  const isGeneral = level !== 'as-heard';
  const repeated = isGeneral ? splitRepeated(gathered.members) : null;
  const members = isGeneral ? withoutNotModified(repeated?.first ?? gathered.members) : gathered.members;
  const bodies: CaseBody[] = isGeneral
    ? explainOperation(members, {
        operation,
        subject,
        kinds,
        callers,
        explain: { flow, makes: true, counterName: (member) => `${operation.name} ${member}`.trim() },
        isAlive: level === 'alive',
        note: (concluded, evidence) => notes.push({ of: operation.name, concluded, evidence }),
      })
    : members.map(heardBody);
  const keys = isGeneral ? bodies.map((body) => JSON.stringify(body)) : members.map((member) => heardKey(member, flow));
  const classes = classify(members, bodies, keys);
  const isPassing = findPassingPlaces({ ...gathered, members }, kinds, flow);
  const features = members.map((member) => member.features);
  const positionOf = (member: number): number => members[member]?.heard.position ?? 0;
  const isWrittenBetween = (member: number, later: number): boolean =>
    causes.between(positionOf(member) + 1, positionOf(later), null, '') !== null;
  const planned = planCases(classes, features, { isGeneral, isPassing, isWrittenBetween }).map((item) =>
    askBefore(item, members),
  );
  if (repeated !== null)
    notes.push({
      of: operation.name,
      concluded: 'calls that are sent again get the same answer',
      evidence: `${gathered.members.length - repeated.first.length} of ${gathered.members.length}, by ${repeated.header}`,
    });
  return { ...gathered, members, classes, planned, notes, repeated };
}

const NOT_MODIFIED = 304;

/** Answers that only say that nothing changed come of the entity tags that others serve. */
function withoutNotModified(members: readonly Member[]): readonly Member[] {
  const others = members.filter(({ heard }) => heard.exchange.status !== NOT_MODIFIED);
  const isServed = others.some(({ heard }) => headerOf(heard.exchange.responseHeaders, 'etag') !== null);
  return isServed ? others : members;
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
