import type { Comparison } from '../definition/comparison.js';
import type { PathKey } from '../definition/yaml-source.js';
import { NO_JSON, type RequestView } from '../request/request-view.js';
import { type CompiledComparison, compileComparison } from './compile-comparison.js';
import { ABSENT, type PathNames, type Place, parsePlace } from './place.js';

/** One line of `when`, ready to run. Matching asks `test`; explaining reads the same place and asks the same `comparison`. */
export interface CompiledCondition {
  readonly place: Place;
  readonly comparison: CompiledComparison;
  readonly test: (request: RequestView) => boolean;
}

/** What one condition found on one call. */
export interface ExplainedCondition {
  readonly place: string;
  readonly wanted: string;
  readonly found: string;
  readonly held: boolean;
  readonly note?: string;
}

type Report = (message: string, path: readonly PathKey[], atKey: boolean) => void;

/** The conditions of a `when`, in file order; problems go to `report` with their place in the file. */
export function compileWhen(
  when: Readonly<Record<string, Comparison>> | undefined,
  pathNames: PathNames,
  path: readonly PathKey[],
  report: Report,
): CompiledCondition[] {
  const conditions: CompiledCondition[] = [];
  for (const [key, comparison] of Object.entries(when ?? {})) {
    const parsed = parsePlace(key, pathNames);
    if (parsed.kind === 'refused') {
      report(parsed.message, [...path, key], true);
      continue;
    }
    const compiled = compileComparison(comparison, parsed.place.domain);
    if (compiled.kind === 'refused') report(compiled.message, [...path, key], false);
    else conditions.push(createCondition(parsed.place, compiled.comparison));
  }
  return conditions;
}

function createCondition(place: Place, comparison: CompiledComparison): CompiledCondition {
  return { place, comparison, test: compileTest(place, comparison) };
}

function compileTest(place: Place, comparison: CompiledComparison): CompiledCondition['test'] {
  const { read } = place;
  const { holds, wantsAbsence } = comparison;
  if (wantsAbsence) return place.isMany ? (request) => isNothing(read(request)) : (request) => read(request) === ABSENT;
  if (place.isMany) {
    return (request) => {
      const value = read(request);
      if (Array.isArray(value)) return holds === null ? value.length > 0 : value.some(holds);
      return value !== ABSENT && (holds === null || holds(value));
    };
  }
  if (holds === null) return (request) => read(request) !== ABSENT;
  return (request) => {
    const value = read(request);
    return value !== ABSENT && holds(value);
  };
}

function isNothing(value: unknown): boolean {
  return value === ABSENT || (Array.isArray(value) && value.length === 0);
}

/** What a condition wanted and found on this call. `isSecret` hides what was found in headers that are masked. */
export function explainCondition(
  condition: CompiledCondition,
  request: RequestView,
  isSecret: (header: string) => boolean,
): ExplainedCondition {
  const { place, comparison } = condition;
  const held = condition.test(request);
  const value = place.read(request);
  const isHidden = place.header !== null && value !== ABSENT && isSecret(place.header);
  const found = isHidden ? '(masked)' : describeFound(value, place);
  const note = held ? null : noteDifference(condition, request, value);
  return { place: place.text, wanted: comparison.wanted, found, held, ...(note === null ? {} : { note }) };
}

function describeFound(value: unknown, place: Place): string {
  if (isNothing(value)) return 'absent';
  return shorten(place.isMany && Array.isArray(value) ? value.map(show).join(' | ') : show(value));
}

const LONGEST_FOUND = 200;

function show(value: unknown): string {
  return JSON.stringify(value) ?? 'absent';
}

function shorten(text: string): string {
  return text.length > LONGEST_FOUND ? `${text.slice(0, LONGEST_FOUND)}...` : text;
}

/** The differences people overlook: a number against a text of the same digits, letters of another case, a body that is no JSON. */
function noteDifference(condition: CompiledCondition, request: RequestView, value: unknown): string | null {
  const { place, comparison } = condition;
  if (place.domain === 'json' && request.json() === NO_JSON)
    return request.text() === '' ? 'the call has no body' : 'the body is not JSON';
  if (comparison.wantsNumber && typeof value === 'string')
    return place.domain === 'json' ? 'a number is wanted, a text came' : 'this text is not a number within the limits';
  const wanted = comparison.indexKey;
  if (wanted === null || value === ABSENT || typeof value === 'object') return null;
  if (typeof value !== typeof wanted && String(value) === String(wanted)) {
    return `a ${typeof wanted === 'string' ? 'text' : typeof wanted} is wanted, a ${typeof value === 'string' ? 'text' : typeof value} came`;
  }
  if (String(value).toLowerCase() === String(wanted).toLowerCase()) return 'only upper and lower case differ';
  return String(value).trim() === String(wanted).trim() ? 'only white space around it differs' : null;
}
