import { writeExact } from '../json/exact-json.js';
import type { CompiledCondition } from '../matching/compile-condition.js';
import { isNothing } from '../matching/compile-condition.js';
import { ABSENT } from '../matching/place.js';
import { NO_JSON, type RequestView } from '../request/request-view.js';
import { isSecretPlace, type SecretPlaces } from '../traffic/mask.js';
import type { ExplainedCondition } from './explanation.js';

type ExplainLeaf = (condition: CompiledCondition) => ExplainedCondition;

/**
 * A condition as lines: itself, and below a group (`any`, `none`) what stands in each of its maps, numbered, one `depth`
 * further in. `explainLeaf` tells what a condition at a place found.
 */
export function explainLines(condition: CompiledCondition, explainLeaf: ExplainLeaf, depth = 0): ExplainedCondition[] {
  const { branches, place, comparison } = condition;
  const deep = depth === 0 ? {} : { depth };
  if (branches === null) return [{ ...explainLeaf(condition), ...deep }];
  const inside = branches.map((branch) => branch.map((own) => explainLines(own, explainLeaf, depth + 1)));
  const holding = inside.filter((branch) => branch.every(([first]) => first?.held === true)).length;
  const held = place.text === 'any' ? holding > 0 : holding === 0;
  const found = `${holding} of ${branches.length} ${holding === 1 ? 'holds' : 'hold'}`;
  const lines = inside.flatMap((branch, i) =>
    branch.flatMap(([first, ...rest]) =>
      first === undefined ? [] : [{ ...first, place: `${i + 1}: ${first.place}` }, ...rest],
    ),
  );
  return [{ place: place.text, wanted: comparison.wanted, found, held, ...deep }, ...lines];
}

/** What a condition wanted and found on this call. What was found in a secret place is hidden. */
export function explainCondition(
  condition: CompiledCondition,
  request: RequestView,
  secrets: SecretPlaces,
): ExplainedCondition {
  const { place, comparison } = condition;
  const held = condition.test(request, null);
  const value = place.read(request, null);
  const isHidden = value !== ABSENT && isSecretPlace(place, secrets);
  const found = isHidden ? '(masked)' : describeFound(value, place.isMany);
  const note = held || isHidden ? null : noteDifference(condition, request, value);
  return { place: place.text, wanted: comparison.wanted, found, held, ...(note === null ? {} : { note }) };
}

/** A found value as people read it; `isMany`: an array is several values. */
export function describeFound(value: unknown, isMany: boolean): string {
  if (isNothing(value, isMany)) return 'absent';
  return shorten(isMany && Array.isArray(value) ? value.map(show).join(' | ') : show(value));
}

const LONGEST_FOUND = 200;

function show(value: unknown): string {
  return writeExact(value) ?? 'absent';
}

function shorten(text: string): string {
  return text.length > LONGEST_FOUND ? `${text.slice(0, LONGEST_FOUND)}...` : text;
}

/** The differences people overlook: a number against a text of the same digits, letters of another case, a body that is no JSON. */
function noteDifference(condition: CompiledCondition, request: RequestView, value: unknown): string | null {
  const { place, comparison } = condition;
  if (place.text.startsWith('json') && request.json() === NO_JSON)
    return request.text() === '' ? 'the call has no body' : 'the body is not JSON';
  const xml = place.text.startsWith('xml') ? request.xml() : null;
  if (xml?.kind === 'broken')
    return request.text() === '' ? 'the call has no body' : `the body is not XML: ${xml.reason}`;
  if (comparison.wantsNumber && typeof value === 'string')
    return place.domain === 'json' ? 'a number is wanted, a text came' : 'this text is not a number within the limits';
  if (comparison.explain !== null && value !== ABSENT) return comparison.explain(value);
  const wanted = comparison.indexKey;
  if (wanted === null || value === ABSENT || typeof value === 'object') return null;
  if (typeof value !== typeof wanted && String(value) === String(wanted)) {
    return `a ${typeof wanted === 'string' ? 'text' : typeof wanted} is wanted, a ${typeof value === 'string' ? 'text' : typeof value} came`;
  }
  if (String(value).toLowerCase() === String(wanted).toLowerCase()) return 'only upper and lower case differ';
  return String(value).trim() === String(wanted).trim() ? 'only white space around it differs' : null;
}
