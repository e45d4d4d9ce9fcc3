import { writeExact } from '../json/exact-json.js';
import { fail } from './frame.js';

/** What `omit` gives: a field with it is left out. */
export const OMIT: unique symbol = Symbol('omit');

export type ValueMap = Readonly<Record<string, unknown>>;

export function isMapValue(value: unknown): value is ValueMap {
  return value !== null && typeof value === 'object' && !Array.isArray(value);
}

/** The word for a value's type in our messages. */
export function typeName(value: unknown): string {
  if (value === null || value === undefined) return 'null';
  if (Array.isArray(value)) return 'a list';
  if (typeof value === 'string') return 'a text';
  if (typeof value === 'object') return 'a map';
  return typeof value === 'boolean' ? 'true/false' : 'a number';
}

/** The same JSON value, by content; a number is never equal to a text. */
export function isEqual(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a === 'bigint') return typeof b === 'number' && Number.isInteger(b) && BigInt(b) === a;
  if (typeof b === 'bigint') return isEqual(b, a);
  if (a === null || b === null || typeof a !== 'object' || typeof b !== 'object') return false;
  if (Array.isArray(a)) return Array.isArray(b) && a.length === b.length && a.every((item, i) => isEqual(item, b[i]));
  if (Array.isArray(b)) return false;
  const keys = Object.keys(a);
  if (keys.length !== Object.keys(b).length) return false;
  return keys.every((key) => Object.hasOwn(b, key) && isEqual((a as ValueMap)[key], (b as ValueMap)[key]));
}

/** The member of a map or the item of a list; null when there is none, or when it is read from something else. */
export function readMember(value: unknown, key: unknown): unknown {
  if (Array.isArray(value)) return typeof key === 'number' ? (value[key] ?? null) : null;
  if (!isMapValue(value) || !isKey(key)) return null;
  const name = String(key);
  return Object.hasOwn(value, name) ? (value[name] ?? null) : null;
}

/** Keys of maps are texts, as in JSON; a number, true or false stands for its text. */
export function isKey(key: unknown): key is string | number | boolean | bigint {
  return ['string', 'number', 'boolean', 'bigint'].includes(typeof key);
}

/** How a value reads inside a longer text: text as it is, null as nothing, the rest as JSON. */
export function toText(value: unknown): string {
  if (typeof value === 'string') return value;
  if (value === null || value === undefined || value === OMIT) return '';
  return writeExact(value);
}

export function needNumber(value: unknown, what: string): number {
  if (typeof value === 'bigint') return Number(value);
  return typeof value === 'number'
    ? value
    : fail(`${what} needs a number, not ${typeName(value)}; number(x) makes one of a text`);
}

export function needText(value: unknown, what: string): string {
  return typeof value === 'string' ? value : fail(`${what} needs a text, not ${typeName(value)}; string(x) makes one`);
}

export function needList(value: unknown, what: string): readonly unknown[] {
  return Array.isArray(value) ? value : fail(`${what} needs a list, not ${typeName(value)}`);
}
