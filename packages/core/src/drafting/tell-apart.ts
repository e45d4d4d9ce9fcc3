import { escapeTemplates } from '../expression/template.js';
import { type Features, PRESENT } from './features.js';
import type { Scalar } from './leaves.js';

/** One condition as it stands in the file, with the place it asks. */
export interface Condition {
  readonly place: string;
  readonly comparison: unknown;
  readonly holds: (features: Features) => boolean;
}

/** Instances of one answer. */
export interface AnswerClass {
  readonly members: readonly Features[];
}

/** For each class, in order, the conditions that keep out all classes after it; null where nothing tells it from one of them. */
export function findRules(
  classes: readonly AnswerClass[],
  isUsable: (place: string) => boolean,
): (readonly Condition[] | null)[] {
  return classes.map((own, i) => {
    const others = classes.slice(i + 1).flatMap((other) => other.members);
    return others.length === 0 ? [] : findConditions(own.members, others, isUsable);
  });
}

/** The fewest conditions (two at most) that hold for all of `own` and none of `others`. */
function findConditions(
  own: readonly Features[],
  others: readonly Features[],
  isUsable: (place: string) => boolean,
): readonly Condition[] | null {
  const candidates = collectCandidates(own, others, isUsable);
  const single = candidates.find(({ condition }) => !others.some(condition.holds));
  if (single !== undefined) return [single.condition];
  const shortlist = candidates.slice(0, MOST_PAIRED);
  for (const [i, first] of shortlist.entries()) {
    const left = others.filter(first.condition.holds);
    const better = left.length < others.length ? collectCandidates(own, left, isUsable) : shortlist.slice(i + 1);
    const second = better.find(
      ({ condition }) => condition.place !== first.condition.place && !left.some(condition.holds),
    );
    if (second !== undefined) return [first.condition, second.condition];
  }
  return null;
}

const MOST_PAIRED = 40;
const MOST_VALUES = 8;

interface Candidate {
  readonly condition: Condition;
  readonly score: number;
}

/** Every condition that holds for all of `own`, best first. */
function collectCandidates(
  own: readonly Features[],
  others: readonly Features[],
  isUsable: (place: string) => boolean,
): Candidate[] {
  const places = new Set<string>();
  for (const features of own) for (const place of features.keys()) places.add(place);
  for (const features of others) for (const place of features.keys()) places.add(place);
  const candidates: Candidate[] = [];
  for (const place of places) {
    if (!isUsable(place)) continue;
    const values = own.map((features) => features.get(place));
    const bonus = placeScore(place);
    if (place.startsWith('age ')) {
      // Time passes: only more or less of it says something.
      const ages = values.filter((value) => value !== undefined);
      if (ages.length === values.length)
        candidates.push(...limits(place, ages, others).map((condition) => ({ condition, score: 1.5 })));
      continue;
    }
    if (values.every((value) => value === undefined))
      candidates.push({ condition: absent(place), score: 3.6 + bonus + (place === 'row' ? 2 : 0) });
    if (!values.every((value) => value !== undefined)) continue;
    const known = [...new Set(values as Scalar[])];
    if (known[0] === PRESENT || known.length > 1)
      candidates.push({ condition: present(place), score: 2.5 + bonus + (place === 'row' ? 2 : 0) });
    if (known[0] === PRESENT) continue;
    if (known.length === 1) candidates.push({ condition: equal(place, known[0] as Scalar), score: 3 + bonus });
    else if (known.length <= MOST_VALUES) candidates.push({ condition: oneOf(place, known), score: 1 + bonus });
    candidates.push(...limits(place, known, others).map((condition) => ({ condition, score: 1.5 + bonus })));
  }
  return candidates.sort((a, b) => b.score - a.score);
}

/** What a condition on a place is worth: what the row says goes before what the path says, and so on. */
function placeScore(place: string): number {
  // What RFC 9110 says of an answer is no guess.
  if (place.includes('etag(')) return 2;
  if (place.startsWith('row')) return 0.5;
  if (place.startsWith('json') || place.startsWith('form') || place.startsWith('query')) return 0.3;
  // That a credential is there is simpler than whose it is: a caller with one of another time is let in.
  if (place.startsWith('state')) return -0.1;
  return place.startsWith('header') || place.startsWith('cookie') ? 0 : 0.1;
}

export function equal(place: string, value: Scalar): Condition {
  if (value === PRESENT) return present(place);
  return { place, comparison: escapeTemplates(value), holds: (features) => features.get(place) === value };
}

function oneOf(place: string, values: readonly Scalar[]): Condition {
  const set = new Set<Scalar | undefined>(values);
  return { place, comparison: { in: escapeTemplates(values) }, holds: (features) => set.has(features.get(place)) };
}

export function absent(place: string): Condition {
  return { place, comparison: { present: false }, holds: (features) => !features.has(place) };
}

function present(place: string): Condition {
  return { place, comparison: { present: true }, holds: (features) => features.has(place) };
}

/** A number beyond all that were answered otherwise. */
function limits(place: string, values: readonly Scalar[], others: readonly Features[]): Condition[] {
  if (!values.every((value) => typeof value === 'number')) return [];
  const other = others.flatMap((features) => {
    const value = features.get(place);
    return typeof value === 'number' ? [value] : [];
  });
  if (other.length === 0) return [];
  const most = Math.max(...other);
  const least = Math.min(...other);
  const read = (features: Features): number => {
    const value = features.get(place);
    return typeof value === 'number' ? value : Number.NaN;
  };
  const lowest = Math.min(...values);
  // A moment is as likely anywhere between the last time it had not come and the first time it had.
  const limit = place.startsWith('age ') ? Math.round((most + lowest) * 5000) / 10_000 : most;
  if (lowest > most) return [{ place, comparison: { above: limit }, holds: (f) => read(f) > limit }];
  if (Math.max(...values) < least) return [{ place, comparison: { below: least }, holds: (f) => read(f) < least }];
  return [];
}

/**
 * The fewest places whose values part the answers, found greedily: each step takes the place that parts most of what is
 * still together. Where no choice of places parts all, only those that settle something for good. `answers[i]` names the
 * answer to the request with `requests[i]`; `start`: places that are asked in any case.
 */
export function findTellingPlaces(
  requests: readonly Features[],
  answers: readonly string[],
  start: readonly string[],
  isUsable: (place: string) => boolean,
): readonly string[] {
  const candidates = [...new Set(requests.flatMap((features) => [...features.keys()]))].filter(isUsable);
  candidates.sort((a, b) => placeOrder(a) - placeOrder(b));
  const all = choosePlaces(candidates, start, (places) => countTogether(requests, answers, places));
  if (countTogether(requests, answers, all) === 0) return all;
  return choosePlaces(candidates, start, (places) => countMixed(requests, answers, places));
}

/** Adds the place that lowers the count most, as long as one does. */
function choosePlaces(
  candidates: readonly string[],
  start: readonly string[],
  count: (places: readonly string[]) => number,
): string[] {
  const places: string[] = [...start];
  let left = count(places);
  while (left > 0) {
    let best: string | null = null;
    let fewest = left;
    for (const place of candidates) {
      if (places.includes(place)) continue;
      const own = count([...places, place]);
      if (own >= fewest) continue;
      best = place;
      fewest = own;
    }
    if (best === null) break;
    places.push(best);
    left = fewest;
  }
  return places;
}

/** How many pairs of requests share the values at `places` but not the answer. */
function countTogether(requests: readonly Features[], answers: readonly string[], places: readonly string[]): number {
  const groups = new Map<string, Map<string, number>>();
  requests.forEach((features, i) => {
    const key = keyAt(features, places);
    const counts = groups.get(key) ?? new Map<string, number>();
    groups.set(key, counts);
    counts.set(answers[i] ?? '', (counts.get(answers[i] ?? '') ?? 0) + 1);
  });
  let pairs = 0;
  for (const counts of groups.values()) {
    let size = 0;
    let same = 0;
    for (const count of counts.values()) {
      size += count;
      same += count * count;
    }
    pairs += (size * size - same) / 2;
  }
  return pairs;
}

const PLACE_ORDER = ['path', 'query', 'form', 'json', 'row', 'state', 'header'];

/** Which places are asked first where several would do. */
export function placeOrder(place: string): number {
  return PLACE_ORDER.indexOf(place.split(' ')[0] ?? '');
}

/** How many requests share the values at `places` with a request that was answered otherwise. */
function countMixed(requests: readonly Features[], answers: readonly string[], places: readonly string[]): number {
  const groups = new Map<string, { count: number; answer: string; isMixed: boolean }>();
  let mixed = 0;
  requests.forEach((features, i) => {
    const key = keyAt(features, places);
    const answer = answers[i] ?? '';
    const group = groups.get(key);
    if (group === undefined) {
      groups.set(key, { count: 1, answer, isMixed: false });
      return;
    }
    group.count++;
    if (group.isMixed) mixed++;
    else if (group.answer !== answer) {
      group.isMixed = true;
      mixed += group.count;
    }
  });
  return mixed;
}

/** The values of a request at some places, as one text. */
export function keyAt(features: Features, places: readonly string[]): string {
  if (places.length === 0) return '';
  return JSON.stringify(places.map((place) => (features.has(place) ? [features.get(place)] : null)));
}
