import type { Domain } from './value-test.js';

const DECIMAL = /^[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?$/;
// RFC 3339 date-time, or a full date (read as midnight UTC)
const DATE = /^\d{4}-\d{2}-\d{2}([Tt ]\d{2}:\d{2}:\d{2}(\.\d+)?([Zz]|[+-]\d{2}:\d{2}))?$/;

/** A value as a number: at text places a text of digits is one. NaN: it is none. */
export function readNumber(value: unknown, domain: Domain): number {
  if (typeof value === 'number') return value;
  if (typeof value === 'bigint') return Number(value);
  return domain === 'text' && typeof value === 'string' && DECIMAL.test(value.trim()) ? Number(value) : Number.NaN;
}

/** An RFC 3339 date as milliseconds; NaN: it is none. */
export function readDate(value: unknown): number {
  return typeof value === 'string' && DATE.test(value) ? Date.parse(value.replace(' ', 'T')) : Number.NaN;
}
