import { compileText, type TextScope } from '../answer/compile-text.js';
import type { Comparison } from '../definition/comparison.js';
import type { PathKey } from '../definition/yaml-source.js';
import type { Evaluate, Frame } from '../expression/frame.js';
import { tryCompileRegex } from '../expression/functions.js';
import { parseTemplate } from '../expression/template.js';
import { isEqual, toText } from '../expression/value.js';
import { matchLike } from './like.js';
import type { Place } from './place.js';

/** A comparison as a closure over one value. `null` where it only asks whether something is there. */
export interface CompiledComparison {
  readonly holds: ((value: unknown, frame: Frame | null) => boolean) | null;
  /** Whether it compares with an expression, which needs the frame of the call. */
  readonly needsFrame: boolean;
  /** What it says of an absent value: true only for `present: false`. */
  readonly whenAbsent: boolean;
  /** `present: false`: no value may stand there. */
  readonly wantsAbsence: boolean;
  /** As a person would say it: `N7`, `like N*`, `from 2 to 5`. */
  readonly wanted: string;
  /** It compares with a number: a text of digits at a JSON place does not do. */
  readonly wantsNumber: boolean;
  /** The one text (or JSON scalar) wanted, when equality is all there is: what cases can be indexed by. */
  readonly indexKey: string | number | boolean | null;
}

export type ComparisonResult =
  | { readonly kind: 'compiled'; readonly comparison: CompiledComparison }
  | { readonly kind: 'refused'; readonly message: string };

type Test = (value: unknown, frame: Frame | null) => boolean;

/** How expressions in comparisons are compiled: `scope` null where none can stand. */
export interface ComparisonScope {
  readonly text: TextScope | null;
  readonly at: readonly PathKey[];
}
type Domain = Place['domain'];

/** Compiles the tests of one comparison for a place: text places compare as text (numbers and true/false by value), JSON keeps types. */
export function compileComparison(comparison: Comparison, domain: Domain, scope: ComparisonScope): ComparisonResult {
  if (comparison.present === false && Object.keys(comparison).length > 1) {
    return { kind: 'refused', message: '`present: false` stands alone: what is not there cannot be compared' };
  }
  const tests: Test[] = [];
  const add = (test: Test | string): string | null => {
    if (typeof test === 'string') return test;
    tests.push(test);
    return null;
  };
  const refusal =
    addEquality(comparison, domain, scope, add) ??
    addTextTests(comparison, add) ??
    addBoundaries(comparison, domain, add);
  if (refusal !== null) return { kind: 'refused', message: refusal };
  return {
    kind: 'compiled',
    comparison: {
      holds: joinTests(tests),
      needsFrame: [comparison.is, ...(comparison.in ?? [])].some(isExpression),
      whenAbsent: comparison.present === false,
      wantsAbsence: comparison.present === false,
      wanted: describeComparison(comparison),
      wantsNumber: [comparison.above, comparison.below, comparison.from, comparison.to].some(
        (limit) => typeof limit === 'number',
      ),
      indexKey: findIndexKey(comparison, domain),
    },
  };
}

type Add = (test: Test | string) => string | null;

function addEquality(comparison: Comparison, domain: Domain, scope: ComparisonScope, add: Add): string | null {
  const { is, in: list } = comparison;
  if (is !== undefined) {
    const refusal = add(compileWanted(is, domain, scope));
    if (refusal !== null) return refusal;
  }
  if (list === undefined) return null;
  const tests = list.map((item) => compileWanted(item, domain, scope));
  const refusal = tests.find((test) => typeof test === 'string');
  return refusal !== undefined
    ? (refusal as string)
    : add((value, frame) => (tests as Test[]).some((test) => test(value, frame)));
}

function addTextTests(comparison: Comparison, add: Add): string | null {
  const { like, regex } = comparison;
  if (like !== undefined) add((value) => typeof value === 'string' && matchLike(value, like));
  if (regex === undefined) return null;
  const compiled = tryCompileRegex(regex);
  if (compiled === null)
    return `/${regex}/ is no regular expression that runs in linear time (back references and look-around are not)`;
  return add((value) => typeof value === 'string' && compiled.test(value));
}

function addBoundaries(comparison: Comparison, domain: Domain, add: Add): string | null {
  const { above, below, from, to } = comparison;
  const sides: [string, string | number | undefined, (difference: number) => boolean][] = [
    ['above', above, (d) => d > 0],
    ['below', below, (d) => d < 0],
    ['from', from, (d) => d >= 0],
    ['to', to, (d) => d <= 0],
  ];
  for (const [name, limit, accepts] of sides) {
    if (limit === undefined) continue;
    const read = typeof limit === 'number' ? (value: unknown) => readNumber(value, domain) : readDate;
    const limitValue = typeof limit === 'number' ? limit : readDate(limit);
    if (Number.isNaN(limitValue)) return `\`${name}\` needs a number or an RFC 3339 date, not ${JSON.stringify(limit)}`;
    add((value) => accepts(read(value) - limitValue));
  }
  return null;
}

function isExpression(wanted: unknown): boolean {
  return typeof wanted === 'string' && wanted.includes('${') && parseTemplate(wanted).kind === 'template';
}

/** A wanted value: as it is written, or what an expression gives on the call. */
function compileWanted(wanted: unknown, domain: Domain, scope: ComparisonScope): Test | string {
  if (typeof wanted !== 'string' || !wanted.includes('${')) return compileEqual(wanted, domain);
  if (scope.text === null) return 'an expression cannot stand here yet; write $${ for a literal ${';
  const compiled = compileText(wanted, scope.at, scope.text);
  if (compiled.kind === 'constant') return compileEqual(compiled.text, domain);
  const evaluate: Evaluate = compiled.evaluate;
  if (domain === 'json') return (value, frame) => frame !== null && isEqual(value, evaluate(frame) ?? null);
  return (value, frame) => {
    const given = frame === null ? null : (evaluate(frame) ?? null);
    return given !== null && value === toText(given);
  };
}

function compileEqual(wanted: unknown, domain: Domain): Test | string {
  if (domain === 'json')
    return wanted !== null && typeof wanted === 'object'
      ? (value) => isEqual(value, wanted)
      : (value) => value === wanted;
  if (typeof wanted === 'string') return (value) => value === wanted;
  if (typeof wanted === 'number') return (value) => readNumber(value, 'text') === wanted;
  if (typeof wanted === 'boolean') return (value) => value === String(wanted);
  if (wanted === null) return 'a text is never null; write { present: false } for what is not there';
  return 'a text is compared with a text, a number or true/false, not with a list or a map';
}

const DECIMAL = /^[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?$/;
// RFC 3339 date-time, or a full date (read as midnight UTC)
const DATE = /^\d{4}-\d{2}-\d{2}([Tt ]\d{2}:\d{2}:\d{2}(\.\d+)?([Zz]|[+-]\d{2}:\d{2}))?$/;

function readNumber(value: unknown, domain: Domain): number {
  if (typeof value === 'number') return value;
  return domain === 'text' && typeof value === 'string' && DECIMAL.test(value.trim()) ? Number(value) : Number.NaN;
}

function readDate(value: unknown): number {
  return typeof value === 'string' && DATE.test(value) ? Date.parse(value.replace(' ', 'T')) : Number.NaN;
}

function joinTests(tests: readonly Test[]): Test | null {
  const [first, second] = tests;
  if (first === undefined) return null;
  if (second === undefined) return first;
  return (value, frame) => tests.every((test) => test(value, frame));
}

function findIndexKey(comparison: Comparison, domain: Domain): CompiledComparison['indexKey'] {
  const { is } = comparison;
  if (is === undefined || Object.keys(comparison).length > 1) return null;
  if (typeof is === 'string') return is.includes('${') ? null : is;
  return domain === 'json' && (typeof is === 'number' || typeof is === 'boolean') ? is : null;
}

function describeComparison(comparison: Comparison): string {
  const words: string[] = [];
  if (comparison.is !== undefined) words.push(JSON.stringify(comparison.is));
  if (comparison.in !== undefined) words.push(`in ${JSON.stringify(comparison.in)}`);
  if (comparison.like !== undefined) words.push(`like ${comparison.like}`);
  if (comparison.regex !== undefined) words.push(`regex ${comparison.regex}`);
  for (const name of ['above', 'below', 'from', 'to'] as const) {
    if (comparison[name] !== undefined) words.push(`${name} ${comparison[name]}`);
  }
  if (comparison.present !== undefined) words.push(comparison.present ? 'present' : 'absent');
  return words.join(', ');
}
