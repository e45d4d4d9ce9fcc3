import { nameCase } from './case-name.js';
import type { CaseClass } from './classes.js';
import type { FoundState, StateChange, ToldAnswer } from './find-state.js';
import type { Heard } from './heard.js';
import { inlineLets } from './inline-lets.js';
import { eachLeaf, memberExpression } from './leaves.js';
import { START } from './plan-labels.js';
import type { MixedCases, PlannedCase } from './planned-case.js';
import type { HeardOperation } from './session.js';
import type { StateSite } from './state-site.js';
import type { Condition } from './tell-apart.js';

/** A case as it stands in the file. */
export type WrittenCase = Readonly<Record<string, unknown>>;

export interface EmitScope {
  readonly operation: HeardOperation;
  readonly isGeneral: boolean;
  readonly state: FoundState;
  /** The site a mixed part of the plan became. */
  readonly siteOf: (planned: MixedCases) => StateSite | null;
  readonly note: (caseName: string | null, concluded: string, evidence: string) => void;
  /** What cases do beside what is drafted: they keep who is given a credential. */
  readonly more: ReadonlyMap<CaseClass, readonly unknown[]>;
  /** The names that cases of writes got, kept for the names of states. */
  readonly names: Set<string>;
}

/** The cases of one operation in file order. */
export function emitCases(planned: readonly PlannedCase[], scope: EmitScope): WrittenCase[] {
  return planned.flatMap((item) => {
    if (item.kind === 'decided') {
      const name = nameCase(item.answer, item.conditions, scope.isGeneral, scope.names);
      return emitClass(name, whenOf(item.conditions), item.answer, scope);
    }
    return emitMixed(item, scope);
  });
}

type When = Readonly<Record<string, unknown>>;

/** Conditions as a file has them; several expressions are joined into one. */
function whenOf(conditions: readonly Condition[]): When {
  const plain = conditions.filter(({ place }) => !place.startsWith(EXPRESSION) && !place.startsWith('age '));
  const expressions = conditions.flatMap(({ place, comparison }) => {
    if (place.startsWith('age ')) return ageExpression(place, comparison);
    if (!place.startsWith(EXPRESSION)) return [];
    const text = place.slice(EXPRESSION.length);
    return JSON.stringify(comparison) === '{"present":false}' ? `!${text}` : text;
  });
  const when: Record<string, unknown> = Object.fromEntries(plain.map(({ place, comparison }) => [place, comparison]));
  if (expressions.length > 0) when['expr'] = expressions.join(' && ');
  return when;
}

/** `age jobSince call.path.jobNo` above a limit: the time since the moment that the state keeps. */
function ageExpression(place: string, comparison: unknown): string {
  const [, name = '', key = ''] = place.split(' ');
  const { above = 0 } = comparison as { above?: number };
  return sinceExpression(`${name}[${key}]`, above);
}

/** Features that are expressions already. */
const EXPRESSION = 'expr ';

function emitMixed(planned: MixedCases, scope: EmitScope): WrittenCase[] {
  const site = scope.siteOf(planned);
  const found = site === null ? undefined : scope.state.sites.get(site);
  if (found === undefined) return [];
  const parts = found.kind === 'phases' ? [found.later, found.first] : [found];
  return parts.flatMap((told) => emitTold(planned, told, scope));
}

function emitTold(planned: MixedCases, found: ToldAnswer, scope: EmitScope): WrittenCase[] {
  const base = whenOf(planned.conditions);
  const nameOf = (word: string, answer: CaseClass): string => {
    const values = nameCase(answer, planned.conditions, scope.isGeneral, new Set());
    return [values === 'as heard' || values === 'usual' ? '' : values, word].filter((part) => part !== '').join(' ');
  };
  const told = scope.operation.name;
  if (found.kind === 'turns') {
    scope.note(null, 'different answers to the same call, in turns', found.evidence);
    const list = found.runs.map(({ answer, count }, i) => ({
      ...inlineLets(answer.body),
      ...(count > 1 && i < found.runs.length - 1 ? { times: count } : {}),
    }));
    const first = found.runs[0]?.answer;
    if (first === undefined) return [];
    return [writeCase(unique(nameOf('in turns', first), scope), base, { answer: { turns: { list } }, steps: [] }, [])];
  }
  const place = `${found.variable}${keySuffix(found.isKeyed, scope.operation)}`;
  if (found.kind === 'time') {
    scope.note(null, `${told} goes on by itself: told apart by the time since it was begun`, found.evidence);
    return found.cases.flatMap(({ answer, afterS }) => {
      const name = unique(nameOf(afterS === null ? 'at first' : `after ${afterS} s`, answer), scope);
      const when = afterS === null ? base : { ...base, expr: sinceExpression(place, afterS) };
      return emitClass(name, when, answer, scope);
    });
  }
  scope.note(null, `different answers to the same call, told apart by state ${found.variable}`, found.evidence);
  return found.cases.flatMap(({ answer, labels }) => {
    const name = unique(nameOf(labels === null ? 'at first' : `after ${labels[0]}`, answer), scope);
    const state = `state ${statePlace(found.variable, found.isKeyed, scope.operation)}`;
    const when = labels === null ? base : { ...base, [state]: labels.length === 1 ? labels[0] : { in: labels } };
    return emitClass(name, when, answer, scope);
  });
}

function unique(name: string, scope: EmitScope): string {
  let own = name.slice(0, 60);
  for (let n = 2; scope.names.has(own); n++) own = `${name.slice(0, 57)} ${n}`;
  scope.names.add(own);
  return own;
}

function lastParam(operation: HeardOperation): string {
  return operation.paramNames.filter((name) => name !== null).at(-1) ?? '';
}

function keySuffix(isKeyed: boolean, operation: HeardOperation): string {
  return isKeyed ? `[call.path.${lastParam(operation)}]` : '';
}

function statePlace(variable: string, isKeyed: boolean, operation: HeardOperation): string {
  return isKeyed ? `${variable}[\${call.path.${lastParam(operation)}}]` : variable;
}

/** True once so many seconds have passed since the moment kept in a state. */
export function sinceExpression(read: string, seconds: number): string {
  return `state.${read} != null && epoch(now) - epoch(state.${read}) >= ${seconds}`;
}

/** The case of a class; several where what it finds in a state decides what it leaves there. */
function emitClass(name: string, when: When, answer: CaseClass, scope: EmitScope): WrittenCase[] {
  const cases = emitChanges(name, when, answer, scope);
  const more = scope.more.get(answer);
  if (more === undefined) return cases;
  // biome-ignore lint/suspicious/noThenProperty: the word of the service file; a case is never awaited
  return cases.map((item) => ({ ...item, then: [...((item['then'] ?? []) as readonly unknown[]), ...more] }));
}

function emitChanges(name: string, when: When, answer: CaseClass, scope: EmitScope): WrittenCase[] {
  const changes = scope.state.changes.get(answer) ?? [];
  const moments = (scope.state.moments.get(answer) ?? []).map((change) => ({
    set: { [targetOf(change, scope.operation)]: '${now}' },
  }));
  const splits = changes.filter((change) => new Set(change.labels.values()).size > 1);
  if (splits.length > 1) return emitMoves(name, when, answer, splits, scope);
  const [split] = splits;
  const fixed = changes
    .filter((change) => change !== split)
    .map((change) => setStep(change, scope.operation, [...change.labels.values()][0] ?? START));
  if (split === undefined) return [writeCase(name, when, answer.body, [...moments, ...fixed])];
  const labels = [...split.labels];
  const state = `state ${targetOf(split, scope.operation)}`;
  const steps = labels.map(([before, after], i) => {
    const isLast = i === labels.length - 1 && !split.isExact;
    const isAsked = !isLast && !(state in when);
    const start = before === START && split.example !== null ? { present: false } : before;
    const own = i === 0 ? name : unique(`${name} ${i + 1}`, scope);
    const asks = isAsked ? { [state]: start } : {};
    return writeCase(own, { ...when, ...asks }, answer.body, [
      ...moments,
      ...fixed,
      setStep(split, scope.operation, after),
    ]);
  });
  if (!split.isExact || state in when) return steps;
  return [...steps, writeCase(unique(`${name} once more`, scope), when, answer.body, [...moments, ...fixed])];
}

/** A write that moves several states on at once: one case for each way it was seen to do so. */
function emitMoves(
  name: string,
  when: When,
  answer: CaseClass,
  splits: readonly StateChange[],
  scope: EmitScope,
): WrittenCase[] {
  const others = (scope.state.changes.get(answer) ?? [])
    .filter((change) => !splits.includes(change))
    .map((change) => setStep(change, scope.operation, [...change.labels.values()][0] ?? START));
  const events = new Set(splits.flatMap((split) => [...split.moves.keys()]));
  const seen = new Set<string>();
  const cases = [...events].flatMap((event) => {
    const asks: Record<string, unknown> = {};
    const steps: unknown[] = [];
    for (const split of splits) {
      const move = split.moves.get(event);
      if (move === undefined) continue;
      const state = `state ${targetOf(split, scope.operation)}`;
      if (!(state in when))
        asks[state] = move.before === START && split.example !== null ? { present: false } : move.before;
      steps.push(setStep(split, scope.operation, move.after));
    }
    const id = JSON.stringify(asks);
    if (seen.has(id)) return [];
    seen.add(id);
    const own = seen.size === 1 ? name : unique(`${name} ${seen.size}`, scope);
    return [writeCase(own, { ...when, ...asks }, answer.body, [...others, ...steps])];
  });
  return [...cases, writeCase(unique(`${name} once more`, scope), when, answer.body, others)];
}

function setStep(change: StateChange, operation: HeardOperation, label: string): unknown {
  return { set: { [targetOf(change, operation)]: label } };
}

function targetOf({ variable, example }: StateChange, operation: HeardOperation): string {
  return example === null ? variable : `${variable}[${keyExpression(example.heard, example.key, operation)}]`;
}

/** How a write names the thing it speaks of: by its path, its body, its answer; else by the key itself. */
function keyExpression(heard: Heard, key: string, operation: HeardOperation): string {
  const index = operation.parts.findIndex((part, i) => part === null && heard.segments[i] === key);
  if (index >= 0) return `\${call.path.${operation.paramNames[index]}}`;
  const sent = findLeaf(heard.sentJson, key);
  if (sent !== null) return `\${call.json${sent}}`;
  const answered = findLeaf(heard.answerJson, key);
  return answered === null ? key : `\${answer.json${answered}}`;
}

function findLeaf(json: unknown, key: string): string | null {
  let found: string | null = null;
  eachLeaf(json, (value, steps) => {
    if (value !== null && String(value) === key) found ??= memberExpression(steps);
  });
  return found;
}

function writeCase(name: string, when: When, body: CaseClass['body'], more: readonly unknown[]): WrittenCase {
  const steps = [...body.steps, ...more];
  return {
    case: name,
    ...(Object.keys(when).length > 0 ? { when } : {}),
    ...(body.let === undefined ? {} : { let: body.let }),
    answer: body.answer,
    // biome-ignore lint/suspicious/noThenProperty: the word of the service file; a case is never awaited
    ...(steps.length > 0 ? { then: steps } : {}),
  };
}
