import { compileBareExpression, type TextScope } from '../answer/compile-text.js';
import type { Comparison } from '../definition/comparison.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type Frame, fail } from '../expression/frame.js';
import { typeName } from '../expression/value.js';
import { NO_JSON, type RequestView } from '../request/request-view.js';
import type { Namespaces } from '../xml/compile-xpath.js';
import { type CompiledComparison, compileComparison } from './compile-comparison.js';
import { ABSENT, type PathNames, type Place, parsePlace } from './place.js';

/** One line of `when`, ready to run. Matching asks `test`; explaining reads the same place and asks the same `comparison`. */
export interface CompiledCondition {
  readonly place: Place;
  readonly comparison: CompiledComparison;
  /** The frame is given where `needsFrame` asks for it. */
  readonly test: (request: RequestView, frame: Frame | null) => boolean;
  readonly needsFrame: boolean;
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

/** What the conditions of a `when` may name. `text` null: neither state nor rows nor expressions can be asked here. */
export interface WhenScope {
  readonly path: PathNames;
  readonly text: TextScope | null;
  readonly namespaces: Namespaces;
}

/** The conditions of a `when`, in file order; problems go to `report` with their place in the file. */
export function compileWhen(
  when: Readonly<Record<string, Comparison>> | undefined,
  scope: WhenScope,
  path: readonly PathKey[],
  report: Report,
): CompiledCondition[] {
  const conditions: CompiledCondition[] = [];
  for (const [key, comparison] of Object.entries(when ?? {})) {
    const at = [...path, key];
    if (key === 'expr') {
      const condition = compileExpr(comparison, scope.text, at, report);
      if (condition !== null) conditions.push(condition);
      continue;
    }
    const parsed = parsePlace(key, { ...scope, at });
    if (parsed.kind === 'refused') {
      report(parsed.message, at, true);
      continue;
    }
    const compiled = compileComparison(comparison, parsed.place.domain, { text: scope.text, at });
    if (compiled.kind === 'refused') report(compiled.message, at, false);
    else conditions.push(createCondition(parsed.place, compiled.comparison));
  }
  return conditions;
}

/** `expr`: a CEL expression that must be true. */
function compileExpr(
  { is, ...others }: Comparison,
  scope: TextScope | null,
  at: readonly PathKey[],
  report: Report,
): CompiledCondition | null {
  if (scope === null) {
    report('`expr` cannot be asked here yet', at, true);
    return null;
  }
  if (typeof is !== 'string' || Object.keys(others).length > 0 || is.includes('${')) {
    report('`expr` is a CEL expression, written without ${ }', at, false);
    return null;
  }
  const evaluate = compileBareExpression(is, at, scope);
  const read: Place['read'] = (_request, frame) => {
    const value = frame === null ? fail('`expr` is not known here') : evaluate(frame);
    return typeof value === 'boolean' ? value : fail(`\`expr\` gave ${typeName(value)}, not true or false: ${is}`);
  };
  const place: Place = { text: `expr: ${is}`, domain: 'json', read, needsFrame: true, isMany: false, header: null };
  const compiled = compileComparison({ is: true }, 'json', { text: null, at });
  return compiled.kind === 'compiled' ? createCondition(place, compiled.comparison) : null;
}

function createCondition(place: Place, comparison: CompiledComparison): CompiledCondition {
  const needsFrame = place.needsFrame || comparison.needsFrame;
  return { place, comparison, test: compileTest(place, comparison), needsFrame };
}

function compileTest(place: Place, comparison: CompiledComparison): CompiledCondition['test'] {
  const { read } = place;
  const { holds, wantsAbsence } = comparison;
  if (wantsAbsence)
    return place.isMany
      ? (request, frame) => isNothing(read(request, frame))
      : (request, frame) => read(request, frame) === ABSENT;
  if (place.isMany) {
    return (request, frame) => {
      const value = read(request, frame);
      if (Array.isArray(value)) return holds === null ? value.length > 0 : value.some((item) => holds(item, frame));
      return value !== ABSENT && (holds === null || holds(value, frame));
    };
  }
  if (holds === null) return (request, frame) => read(request, frame) !== ABSENT;
  return (request, frame) => {
    const value = read(request, frame);
    return value !== ABSENT && holds(value, frame);
  };
}

function isNothing(value: unknown): boolean {
  return value === ABSENT || (Array.isArray(value) && value.length === 0);
}

/** What a condition wanted and found on this call. `isSecret` hides what was found in headers that are masked. */
export function explainCondition(
  condition: CompiledCondition,
  request: RequestView,
  frame: Frame | null,
  isSecret: (header: string) => boolean,
): ExplainedCondition {
  const { place, comparison } = condition;
  const held = condition.test(request, frame);
  const value = place.read(request, frame);
  const isHidden = place.header !== null && value !== ABSENT && isSecret(place.header);
  const found = isHidden ? '(masked)' : describeFound(value, place.isMany);
  const note = held ? null : noteDifference(condition, request, value);
  return { place: place.text, wanted: comparison.wanted, found, held, ...(note === null ? {} : { note }) };
}

/** A found value as people read it; `isMany`: an array is several values. */
export function describeFound(value: unknown, isMany: boolean): string {
  if (value === ABSENT || (isMany && isNothing(value))) return 'absent';
  return shorten(isMany && Array.isArray(value) ? value.map(show).join(' | ') : show(value));
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
  if (place.text.startsWith('json') && request.json() === NO_JSON)
    return request.text() === '' ? 'the call has no body' : 'the body is not JSON';
  const xml = place.text.startsWith('xml') ? request.xml() : null;
  if (xml?.kind === 'broken')
    return request.text() === '' ? 'the call has no body' : `the body is not XML: ${xml.reason}`;
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
