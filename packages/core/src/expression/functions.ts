import { RE2JS } from 're2js';
import { entityTagOf } from '../answer/entity-tag.js';
import { writeExact } from '../json/exact-json.js';
import { fractionAt, uuidAt } from '../state/draw.js';
import { CODING_FUNCTIONS } from './coding-functions.js';
import { DATE_FUNCTIONS } from './date-functions.js';
import { defineFunction as define, type ExpressionFunction } from './expression-function.js';
import { CHARACTERS_PER_STEP, type Frame, fail, LONGEST_TEXT } from './frame.js';
import { LIST_FUNCTIONS } from './list-functions.js';
import { drawPattern } from './pattern.js';
import { isMapValue, needList, needNumber, needText, toText, typeName } from './value.js';

const GENERAL: Record<string, ExpressionFunction> = {
  size: define(1, 1, ([value]) => sizeOf(value)),
  number: define(1, 1, ([value]) => toNumber(value)),
  dyn: define(1, 1, ([value]) => value ?? null),
  double: define(1, 1, ([value]) => toNumber(value)),
  int: define(1, 1, ([value]) => toWhole(value)),
  bool: define(1, 1, ([value]) => toBoolean(value)),
  string: define(1, 1, ([value]) => toText(value)),
  floor: define(1, 1, ([value]) => Math.floor(needNumber(value, 'floor'))),
  round: define(1, 2, ([value, digits]) => roundTo(needNumber(value, 'round'), digits ?? 0)),
  etag: define(1, 1, ([value], frame) => {
    const text = writeExact(value) ?? '';
    frame.spend(Math.ceil(text.length / CHARACTERS_PER_STEP));
    return entityTagOf(text);
  }),
  epoch: define(1, 1, ([date]) => toEpoch(needText(date, 'epoch'))),
  add: define(2, 2, ([date, duration]) => addTo(needText(date, 'add'), needText(duration, 'add'))),
  range: define(1, 1, ([count], frame) => makeRange(needNumber(count, 'range'), frame)),
};

const TEXTS: Record<string, ExpressionFunction> = {
  contains: define(2, 2, ([value, part]) => needText(value, 'contains').includes(needText(part, 'contains'))),
  startsWith: define(2, 2, ([value, part]) => needText(value, 'startsWith').startsWith(needText(part, 'startsWith'))),
  endsWith: define(2, 2, ([value, part]) => needText(value, 'endsWith').endsWith(needText(part, 'endsWith'))),
  matches: define(2, 2, ([value, pattern]) =>
    compileRegex(needText(pattern, 'matches')).test(needText(value, 'matches')),
  ),
  lower: define(1, 1, ([value]) => needText(value, 'lower').toLowerCase()),
  upper: define(1, 1, ([value]) => needText(value, 'upper').toUpperCase()),
  trim: define(1, 1, ([value]) => needText(value, 'trim').trim()),
  split: define(2, 2, ([value, by], frame) => spendList(needText(value, 'split').split(needText(by, 'split')), frame)),
  join: define(1, 2, ([list, by], frame) =>
    joinTexts(needList(list, 'join').map(toText), by === undefined ? '' : needText(by, 'join'), frame),
  ),
  replace: define(3, 3, ([value, from, to], frame) => replaceAll(value, from, to, frame)),
  substring: define(2, 3, ([value, from, to]) =>
    needText(value, 'substring').slice(
      needNumber(from, 'substring'),
      to === undefined ? undefined : needNumber(to, 'substring'),
    ),
  ),
};

/** Draws: the same every time for the same seed, lane, operation, how-manieth call, and place in the file. */
const DRAWS: Record<string, ExpressionFunction> = {
  uuid: define(0, 0, (_args, frame, position) => uuidAt(frame.drawHash, position)),
  next: define(1, 2, ([counter, first], frame) =>
    frame.lane.next(needText(counter, 'next'), first === undefined ? 1 : needNumber(first, 'next')),
  ),
  pattern: define(1, 1, ([shape], frame, position) => {
    const text = drawPattern(needText(shape, 'pattern'), frame.drawHash, position);
    frame.spend(Math.ceil(text.length / CHARACTERS_PER_STEP));
    return text;
  }),
  between: define(2, 2, ([low, high], frame, position) =>
    drawBetween(needNumber(low, 'between'), needNumber(high, 'between'), frame, position),
  ),
  pick: define(1, 1, ([list], frame, position) => {
    const items = needList(list, 'pick');
    return items[Math.floor(fractionAt(frame.drawHash, position) * items.length)] ?? null;
  }),
};

export const FUNCTIONS: ReadonlyMap<string, ExpressionFunction> = new Map(
  Object.entries({ ...GENERAL, ...TEXTS, ...DATE_FUNCTIONS, ...CODING_FUNCTIONS, ...LIST_FUNCTIONS, ...DRAWS }),
);

const LONGEST_CACHE = 200;
const regexCache = new Map<string, RE2JS>();

/** A regular expression by a linear-time engine: no pattern can stall the service. */
export function compileRegex(pattern: string): RE2JS {
  let compiled = regexCache.get(pattern);
  if (compiled === undefined) {
    compiled = tryCompileRegex(pattern) ?? fail(`/${pattern}/ is no regular expression`);
    if (regexCache.size >= LONGEST_CACHE) regexCache.clear();
    regexCache.set(pattern, compiled);
  }
  return compiled;
}

/** The compiled pattern, or null when it is none (or uses what a linear engine cannot: back references, look-around). */
export function tryCompileRegex(pattern: string): RE2JS | null {
  try {
    return RE2JS.compile(pattern);
  } catch {
    return null;
  }
}

const MOST_DIGITS = 12;

/** To whole numbers, or to so many decimals. */
function roundTo(value: number, digits: unknown): number {
  const places = needNumber(digits, 'round');
  if (!Number.isInteger(places) || places < 0 || places > MOST_DIGITS)
    return fail(`round takes 0 to ${MOST_DIGITS} digits`);
  return places === 0 ? Math.round(value) : Number(value.toFixed(places));
}

function sizeOf(value: unknown): number {
  if (typeof value === 'string') return [...value].length;
  if (Array.isArray(value)) return value.length;
  return isMapValue(value)
    ? Object.keys(value).length
    : fail(`size needs a text, a list or a map, not ${typeName(value)}`);
}

function toNumber(value: unknown): number {
  if (typeof value === 'number') return value;
  if (typeof value === 'bigint') return Number(value);
  const parsed = typeof value === 'string' && value.trim() !== '' ? Number(value) : Number.NaN;
  return Number.isFinite(parsed) ? parsed : fail(`number() cannot read ${JSON.stringify(value)}`);
}

/** Decimals are cut off; a text has none. */
function toWhole(value: unknown): number {
  if (typeof value === 'string' && !/^\s*[-+]?\d+\s*$/.test(value))
    return fail(`int() cannot read ${JSON.stringify(value)}`);
  // Minus zero is zero.
  return Math.trunc(toNumber(value)) + 0;
}

const BOOLEANS: Readonly<Record<string, boolean>> = {
  ...{ '1': true, t: true, true: true, TRUE: true, True: true },
  ...{ '0': false, f: false, false: false, FALSE: false, False: false },
};

function toBoolean(value: unknown): boolean {
  if (typeof value === 'boolean') return value;
  const read = typeof value === 'string' && Object.hasOwn(BOOLEANS, value) ? BOOLEANS[value] : undefined;
  return read ?? fail(`bool() cannot read ${JSON.stringify(value)}`);
}

const MS_PER_SECOND = 1000;

/** Seconds since 1970 of an RFC 3339 date, with decimals. */
function toEpoch(date: string): number {
  const ms = Date.parse(date);
  return Number.isNaN(ms) ? fail(`epoch() needs an RFC 3339 date, not ${JSON.stringify(date)}`) : ms / MS_PER_SECOND;
}

const OFFSET_MS: Readonly<Record<string, number>> = { ms: 1, s: 1_000, m: 60_000, h: 3_600_000, d: 86_400_000 };

/** An RFC 3339 date moved by `90s`, `15m`, `2h`, `-1d`. */
function addTo(date: string, duration: string): string {
  const match = /^(-?\d+(?:\.\d+)?)(ms|s|m|h|d)$/.exec(duration.trim());
  if (match === null)
    return fail(`add() needs a duration such as 90s, 15m, 2h or -1d, not ${JSON.stringify(duration)}`);
  const ms = toEpoch(date) * MS_PER_SECOND + Number(match[1]) * (OFFSET_MS[match[2] ?? ''] ?? 0);
  const moved = new Date(ms);
  return Number.isNaN(moved.getTime()) ? fail('add() went beyond the dates there are') : moved.toISOString();
}

function makeRange(count: number, frame: Frame): number[] {
  if (!Number.isInteger(count) || count < 0) fail('range needs a whole number from 0');
  frame.spend(count);
  return Array.from({ length: count }, (_, i) => i);
}

function drawBetween(low: number, high: number, frame: Frame, position: number): number {
  const fraction = fractionAt(frame.drawHash, position);
  if (Number.isInteger(low) && Number.isInteger(high)) return low + Math.floor(fraction * (high - low + 1));
  return low + fraction * (high - low);
}

function replaceAll(value: unknown, from: unknown, to: unknown, frame: Frame): string {
  const pieces = needText(value, 'replace').split(needText(from, 'replace'));
  return joinTexts(pieces, needText(to, 'replace'), frame);
}

/** Lengths are added up before anything is built, so that no expression can ask for gigabytes. */
function joinTexts(pieces: readonly string[], by: string, frame: Frame): string {
  const length = pieces.reduce((sum, piece) => sum + piece.length + by.length, 0);
  if (length > LONGEST_TEXT) fail(`a text of more than ${LONGEST_TEXT} characters`);
  frame.spend(pieces.length + Math.ceil(length / CHARACTERS_PER_STEP));
  return pieces.join(by);
}

function spendList(made: string[], frame: Frame): string[] {
  frame.spend(made.length);
  return made;
}
