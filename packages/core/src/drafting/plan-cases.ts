import { isCallerPlace } from './callers.js';
import type { CaseClass } from './classes.js';
import type { Features } from './features.js';
import { absent, type Condition, equal, findRules, findTellingPlaces, keyAt } from './tell-apart.js';

/** A case that is told by the call (and its row) alone. */
export interface DecidedCase {
  readonly kind: 'decided';
  readonly conditions: readonly Condition[];
  readonly answer: CaseClass;
}

/** Classes that nothing in the call tells apart: state, time or turns do. */
export interface MixedCases {
  readonly kind: 'mixed';
  readonly conditions: readonly Condition[];
  readonly answers: readonly CaseClass[];
}

export type PlannedCase = DecidedCase | MixedCases;

export interface PlanOptions {
  /** Places whose values another session would not repeat: keys, and what the caller makes anew for each call. */
  readonly isPassing: (place: string) => boolean;
  /** Whether conditions are to hold for other sessions, too. */
  readonly isGeneral: boolean;
  /** Whether some write stands between two members. */
  readonly isWrittenBetween: (member: number, later: number) => boolean;
}

/** More classes than this are a table of answers, told by their values. */
const MOST_RULES = 12;

/** The cases of one operation in order: what tells each from those after it. */
export function planCases(
  classes: readonly CaseClass[],
  features: readonly Features[],
  options: PlanOptions,
): PlannedCase[] {
  const [only] = classes;
  if (only === undefined) return [];
  if (classes.length === 1) return [{ kind: 'decided', conditions: [], answer: only }];
  if (!options.isGeneral || classes.length > MOST_RULES) return planByValues(classes, features, options);
  const ordered = [...classes].sort(compareClasses);
  const toFeatures = (item: CaseClass) => ({ members: item.members.map((i) => features[i] as Features) });
  const rules = findRules(ordered.map(toFeatures), (place) => !options.isPassing(place));
  if (rules.every((rule) => rule !== null)) {
    const decided = ordered.map((answer, i): PlannedCase => ({ kind: 'decided', conditions: rules[i] ?? [], answer }));
    return isTable(ordered) ? planTable(ordered, decided, features, options) : decided;
  }
  return planMixed(ordered, rules, features, options);
}

/** Refusals first, rare ones before frequent ones: the usual answer stands last, without conditions. */
function compareClasses(a: CaseClass, b: CaseClass): number {
  return (
    orderOf(a.status) - orderOf(b.status) ||
    a.members.length - b.members.length ||
    (b.members[0] ?? 0) - (a.members[0] ?? 0)
  );
}

/** Many answers of which none is the usual one: data, told by the values that ask for it. */
function isTable(ordered: readonly CaseClass[]): boolean {
  const answers = ordered.filter(({ status }) => status < 400);
  return answers.length >= FEWEST_IN_TABLE && answers.every(({ body }) => body.steps.length === 0);
}

const FEWEST_IN_TABLE = 3;

/** Refusals by their rules; then one case for each entry of the table, none of which answers for what was never asked. */
function planTable(
  ordered: readonly CaseClass[],
  decided: readonly PlannedCase[],
  features: readonly Features[],
  options: PlanOptions,
): PlannedCase[] {
  const entries = planByValues(
    ordered.filter(({ status }) => status < 400),
    features,
    options,
  );
  if (entries.some(({ kind }) => kind === 'mixed')) return [...decided];
  return [...decided.filter((_, i) => (ordered[i]?.status ?? 0) >= 400), ...entries];
}

/** Services ask who calls before what is asked for, and look for the thing before they judge the request. */
function orderOf(status: number): number {
  if (status < 400) return 9;
  const at = [401, 403, 404].indexOf(status);
  return at < 0 ? 3 : at;
}

function planMixed(
  ordered: readonly CaseClass[],
  rules: readonly (readonly Condition[] | null)[],
  features: readonly Features[],
  options: PlanOptions,
): PlannedCase[] {
  const decided = ordered.flatMap((answer, i): PlannedCase[] => {
    const rule = rules[i] ?? null;
    const isLast = i === ordered.length - 1;
    return rule === null || isLast ? [] : [{ kind: 'decided', conditions: rule, answer }];
  });
  const rest = ordered.filter((_, i) => rules[i] === null || i === ordered.length - 1);
  const mixed: PlannedCase = { kind: 'mixed', conditions: [], answers: inOrder(rest) };
  const caller = findTellingCaller(rest, features, options);
  if (caller !== null) return [...decided, ...planByValues(rest, features, options, [caller])];
  if (isSequence(rest)) return [...decided, mixed];
  const byValues = planByValues(rest, features, options);
  return byValues.some((item) => item.kind === 'mixed') ? [...decided, mixed] : [...decided, ...byValues];
}

/** The place of who calls, where two callers are answered differently with nothing in between that could have changed it. */
function findTellingCaller(
  classes: readonly CaseClass[],
  features: readonly Features[],
  { isWrittenBetween }: PlanOptions,
): string | null {
  const all = classes
    .flatMap((item, at) => item.members.map((member) => ({ member, at })))
    .sort((a, b) => a.member - b.member);
  const place = all.flatMap(({ member }) => [...(features[member]?.keys() ?? [])]).find(isCallerPlace);
  if (place === undefined) return null;
  const callerOf = (member: number) => features[member]?.get(place);
  const isTelling = all.some((item, i) => {
    const before = all[i - 1];
    if (before === undefined || before.at === item.at) return false;
    return callerOf(before.member) !== callerOf(item.member) && !isWrittenBetween(before.member, item.member);
  });
  return isTelling ? place : null;
}

/** Whether answers follow one another rather than going to and fro: what state looks like. */
function isSequence(classes: readonly CaseClass[]): boolean {
  const all = classes
    .flatMap((item, at) => item.members.map((member) => ({ member, at })))
    .sort((a, b) => a.member - b.member);
  const changes = all.filter((item, i) => i > 0 && item.at !== all[i - 1]?.at).length;
  return changes < all.length / 2 || changes < classes.length + 1;
}

function inOrder(classes: readonly CaseClass[]): CaseClass[] {
  return [...classes].sort((a, b) => (a.members[0] ?? 0) - (b.members[0] ?? 0));
}

/** One case for each combination of the values that part the answers. */
function planByValues(
  classes: readonly CaseClass[],
  features: readonly Features[],
  options: PlanOptions,
  asked: readonly string[] = [],
): PlannedCase[] {
  const indexes = classes.flatMap((item) => item.members).sort((a, b) => a - b);
  const classOf = new Map(classes.flatMap((item, at) => item.members.map((member) => [member, at] as const)));
  const requests = indexes.map((i) => features[i] as Features);
  const places = findTellingPlaces(
    requests,
    indexes.map((i) => String(classOf.get(i))),
    [...asked, ...(options.isGeneral ? [] : varyingPaths(requests))],
    (place) =>
      !/^(row|age)\b/.test(place) &&
      !(options.isGeneral && options.isPassing(place)) &&
      !isMadeByCaller(place, requests),
  );
  const groups = new Map<string, number[]>();
  indexes.forEach((member, at) => {
    const key = keyAt(requests[at] as Features, places);
    const group = groups.get(key);
    if (group === undefined) groups.set(key, [member]);
    else group.push(member);
  });
  return [...groups.values()].map((members): PlannedCase => {
    const first = features[members[0] ?? 0] as Features;
    const conditions = places.map((place) =>
      first.has(place) ? equal(place, first.get(place) ?? null) : absent(place),
    );
    const answers = classes.flatMap((item, at) => {
      const own = members.filter((member) => classOf.get(member) === at);
      return own.length === 0 ? [] : [{ ...item, members: own }];
    });
    const [answer] = answers;
    return answers.length === 1 && answer !== undefined
      ? { kind: 'decided', conditions, answer }
      : { kind: 'mixed', conditions, answers: inOrder(answers) };
  });
}

/** What is asked for by other paths is another thing. */
function varyingPaths(requests: readonly Features[]): string[] {
  const places = [...(requests[0]?.keys() ?? [])].filter((place) => place.startsWith('path '));
  return places.filter((place) => new Set(requests.map((features) => features.get(place))).size > 1);
}

const MADE = /^[0-9a-f]{8}-[0-9a-f]{4}-|^\d{4}-\d{2}-\d{2}T|^[0-9a-f]{16,}$|^\d{13}$/i;

/** Parameters that only keep caches from answering. */
const CACHE_BREAKER = /^query (_|_t|ts|timestamp|cb|nonce|rand|random|cache_?bust(er)?)$/i;

/** A value that is another one each time, of a shape only programs make: a nonce, a moment. */
function isMadeByCaller(place: string, requests: readonly Features[]): boolean {
  if (place.startsWith('path')) return false;
  if (CACHE_BREAKER.test(place)) return true;
  const values = requests.flatMap((features) => (features.has(place) ? [features.get(place)] : []));
  return (
    values.length > 1 && new Set(values).size === values.length && values.every((value) => MADE.test(String(value)))
  );
}
