import { type AskedRequest, findAskedPlaces } from './asked-places.js';
import type { CaseClass } from './classes.js';
import type { Features } from './features.js';
import type { PlannedCase, PlanOptions } from './planned-case.js';
import { absent, equal, findTellingPlaces, keyAt } from './tell-apart.js';

/** Whether calls were answered differently with nothing in between that could have changed it: then the calls say why. */
export function isToldByCall(
  classes: readonly CaseClass[],
  features: readonly Features[],
  options: PlanOptions,
): boolean {
  return findAskedPlaces(toRequests(classes, features), usableIn(features, options), options).length > 0;
}

export function inOrder(classes: readonly CaseClass[]): CaseClass[] {
  return [...classes].sort((a, b) => (a.members[0] ?? 0) - (b.members[0] ?? 0));
}

/** One case for each combination of the values that part the answers. */
export function planByValues(
  classes: readonly CaseClass[],
  features: readonly Features[],
  options: PlanOptions,
): PlannedCase[] {
  const indexes = classes.flatMap((item) => item.members).sort((a, b) => a - b);
  const classOf = new Map(classes.flatMap((item, at) => item.members.map((member) => [member, at] as const)));
  const requests = indexes.map((i) => features[i] as Features);
  const isUsable = usableIn(requests, options);
  const asked = findAskedPlaces(toRequests(classes, features), isUsable, options);
  const places = findTellingPlaces(
    requests,
    indexes.map((i) => String(classOf.get(i))),
    [...asked, ...(options.isGeneral ? [] : varyingPaths(requests))],
    isUsable,
  );
  return partAt(places, classes, features);
}

/** Which places of calls may part answers: not those that other sessions would not repeat. */
export function usableIn(
  requests: readonly Features[],
  { isGeneral, isPassing }: PlanOptions,
): (place: string) => boolean {
  return (place) => !/^(row|age)\b/.test(place) && !(isGeneral && isPassing(place)) && !isMadeByCaller(place, requests);
}

function toRequests(classes: readonly CaseClass[], features: readonly Features[]): AskedRequest[] {
  return classes
    .flatMap((item, answer) =>
      item.members.map((member) => ({ member, answer, features: features[member] as Features })),
    )
    .sort((a, b) => a.member - b.member);
}

/** One case for each combination of values at the places. */
export function partAt(
  places: readonly string[],
  classes: readonly CaseClass[],
  features: readonly Features[],
): PlannedCase[] {
  const indexes = classes.flatMap((item) => item.members).sort((a, b) => a - b);
  const classOf = new Map(classes.flatMap((item, at) => item.members.map((member) => [member, at] as const)));
  const groups = new Map<string, number[]>();
  indexes.forEach((member) => {
    const key = keyAt(features[member] as Features, places);
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
