import { parse, stringify } from 'lossless-json';

/** Whole numbers that a double cannot hold are kept with all of their digits, as `bigint`; a number that may be one has as many digits as this. */
const MAYBE_LONG = /\d{16}/;

/** A JSON text as a value; whole numbers beyond 2^53 keep their digits. Throws what `JSON.parse` throws. */
export function parseExact(text: string): unknown {
  return MAYBE_LONG.test(text)
    ? parse(text, null, { parseNumber: readNumber, onDuplicateKey: ({ newValue }) => newValue })
    : JSON.parse(text);
}

function readNumber(text: string): number | bigint {
  return toExact(text) ?? Number(text);
}

/** A whole number beyond 2^53; null: it is another one, which a double holds. */
export function toExact(text: string): bigint | null {
  return /^-?\d+$/.test(text) && !Number.isSafeInteger(Number(text)) ? BigInt(text) : null;
}

/** Beyond this, looking at each character takes longer than the runtime's own writer. */
const SHORT_TEXT = 48;

/** A value as JSON text, whole numbers with all of their digits. Short texts and numbers, which are most of them, are written here. */
export function writeExact(value: unknown): string {
  if (typeof value === 'string' && value.length <= SHORT_TEXT && isPlainText(value)) return `"${value}"`;
  if (typeof value === 'number' && Number.isFinite(value)) return String(value === 0 ? 0 : value);
  try {
    return JSON.stringify(value);
  } catch (error) {
    // What it says of numbers of any length; nothing here has circles.
    if (error instanceof TypeError) return stringify(value) ?? 'null';
    throw error;
  }
}

/** Whether a text stands in JSON as it is: nothing to escape (RFC 8259, 7), no half of a surrogate pair. */
function isPlainText(text: string): boolean {
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code < 0x20 || code === 0x22 || code === 0x5c || (code >= 0xd800 && code <= 0xdfff)) return false;
  }
  return true;
}

/** The value with something else in the place of each longer number; the very value where there are none. */
export function convertLong(value: unknown, convert: (long: bigint) => unknown): unknown {
  if (typeof value === 'bigint') return convert(value);
  if (value === null || typeof value !== 'object' || !hasLong(value)) return value;
  if (Array.isArray(value)) return value.map((own) => convertLong(own, convert));
  return Object.fromEntries(Object.entries(value).map(([key, own]) => [key, convertLong(own, convert)]));
}

/** The value with doubles in the place of longer numbers, for what knows no others. */
export function roundNumbers(value: unknown): unknown {
  return convertLong(value, Number);
}

/** The value with texts of digits in the place of longer numbers, for what is shown. */
export function showNumbers(value: unknown): unknown {
  return convertLong(value, String);
}

const LONG = /^\$\{(-?\d{16,})\}$/;

/** A constant of a file, in which long numbers stand as expressions: the numbers themselves; the very value where there are none. */
export function readConstants(value: unknown): unknown {
  if (typeof value === 'string') {
    const digits = LONG.exec(value)?.[1];
    return digits === undefined ? value : (toExact(digits) ?? value);
  }
  if (value === null || typeof value !== 'object') return value;
  const own = Object.entries(value);
  const read = own.map(([key, item]) => [key, readConstants(item)] as const);
  if (read.every(([, item], i) => item === own[i]?.[1])) return value;
  return Array.isArray(value) ? read.map(([, item]) => item) : Object.fromEntries(read);
}

function hasLong(value: unknown): boolean {
  if (typeof value === 'bigint') return true;
  return value !== null && typeof value === 'object' && Object.values(value).some(hasLong);
}
