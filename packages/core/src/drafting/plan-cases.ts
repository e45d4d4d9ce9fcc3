import type { CaseClass } from './classes.js';
import type { Features } from './features.js';
import { planByRow } from './part-by-row.js';
import { inOrder, isToldByCall, planByValues } from './part-by-values.js';
import type { PlannedCase, PlanOptions } from './planned-case.js';
import { type Condition, findRules } from './tell-apart.js';

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
  const table = planByRow(rest, features, options);
  if (table !== null) return [...decided, ...table];
  const byAny = planByAny(rest, features, options);
  if (byAny !== null) return [...decided, ...byAny];
  if (isSequence(rest) && !isToldByCall(rest, features, options)) return [...decided, mixed];
  const byValues = planByValues(rest, features, options);
  const isParted = byValues.length > 1 && isToldByCall(rest, features, options);
  return !isParted && byValues.some((item) => item.kind === 'mixed') ? [...decided, mixed] : [...decided, ...byValues];
}

/** Where only what another session would not repeat tells answers apart, it is asked all the same: nothing else does. */
function planByAny(
  classes: readonly CaseClass[],
  features: readonly Features[],
  options: PlanOptions,
): PlannedCase[] | null {
  const open = { ...options, isPassing: () => false };
  if (isToldByCall(classes, features, options) || !isToldByCall(classes, features, open)) return null;
  const parted = planByValues(classes, features, open);
  return parted.some(({ kind }) => kind === 'mixed') ? null : parted;
}

/** Whether answers follow one another rather than going to and fro: what state looks like. */
function isSequence(classes: readonly CaseClass[]): boolean {
  const all = classes
    .flatMap((item, at) => item.members.map((member) => ({ member, at })))
    .sort((a, b) => a.member - b.member);
  const changes = all.filter((item, i) => i > 0 && item.at !== all[i - 1]?.at).length;
  return changes < all.length / 2 || changes < classes.length + 1;
}
