import type { CaseClass } from './classes.js';
import type { Features } from './features.js';
import { partAt, usableIn } from './part-by-values.js';
import type { DecidedCase, PlannedCase, PlanOptions } from './planned-case.js';
import { findTellingPlaces } from './tell-apart.js';

/** More values than this are not kinds of things. */
const MOST_STATES = 6;

/**
 * What a row may do next: cases by what it is and what the call asks, the refusal for everything else. Null when this does
 * not part the answers.
 */
export function planByRow(
  classes: readonly CaseClass[],
  features: readonly Features[],
  options: PlanOptions,
): PlannedCase[] | null {
  const indexes = classes.flatMap((item) => item.members).sort((a, b) => a - b);
  const requests = indexes.map((i) => features[i] as Features);
  const isUsable = usableIn(requests, options);
  const isState = (place: string): boolean => {
    const values = requests.map((request) => request.get(place));
    const kinds = new Set(values);
    const isWord = values.every((value) => typeof value === 'string' || typeof value === 'boolean');
    return isWord && kinds.size <= MOST_STATES && kinds.size < requests.length;
  };
  const classOf = new Map(classes.flatMap((item, at) => item.members.map((member) => [member, String(at)] as const)));
  const places = findTellingPlaces(
    requests,
    indexes.map((i) => classOf.get(i) ?? ''),
    [],
    (place) => isState(place) && (place.startsWith('row ') ? !options.isPassing(place) : isUsable(place)),
  );
  if (!places.some((place) => place.startsWith('row '))) return null;
  const parted = partAt(places, classes, features);
  if (parted.some(({ kind }) => kind === 'mixed')) return null;
  const refusals = classes.filter(({ status }) => status >= 400);
  const [refusal] = refusals;
  if (refusals.length !== 1 || refusal === undefined) return parted;
  const allowed = (parted as readonly DecidedCase[]).filter(({ answer }) => answer.status < 400);
  return [...allowed, { kind: 'decided', conditions: [], answer: refusal }];
}
