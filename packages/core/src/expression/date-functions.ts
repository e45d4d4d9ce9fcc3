import { DateTime } from 'luxon';
import { defineFunction as define, type ExpressionFunction } from './expression-function.js';
import { fail } from './frame.js';
import { needText, typeName } from './value.js';

const MS_PER_SECOND = 1000;
const UTC = 'utc';

/** Functions over dates: RFC 3339 texts, in UTC unless a time zone of the IANA database is named. */
export const DATE_FUNCTIONS: Record<string, ExpressionFunction> = {
  /** Of seconds since 1970, or of a text in a pattern of Unicode (`dd.MM.yyyy`). */
  date: define(1, 3, ([value, pattern, zone]) => toDate(value, pattern, zone)),
  format: define(2, 3, ([date, pattern, zone]) =>
    readDate(needText(date, 'format'), zone, 'format').toFormat(needText(pattern, 'format')),
  ),
  parts: define(1, 2, ([date, zone]) => {
    const { year, month, day, hour, minute, second, weekday, weekNumber } = readDate(
      needText(date, 'parts'),
      zone,
      'parts',
    );
    return { year, month, day, hour, minute, second, weekday, week: weekNumber };
  }),
};

function toDate(value: unknown, pattern: unknown, zone: unknown): string {
  if (typeof value === 'number') {
    const read = DateTime.fromMillis(Math.round(value * MS_PER_SECOND), { zone: UTC });
    return read.isValid ? toText(read) : fail(`date cannot read ${value} as seconds since 1970`);
  }
  const text = typeof value === 'string' ? value : fail(`date needs a number or a text, not ${typeName(value)}`);
  if (pattern === undefined) return toText(readDate(text, zone, 'date'));
  const read = DateTime.fromFormat(text, needText(pattern, 'date'), { zone: zoneOf(zone), locale: 'en' });
  return read.isValid ? toText(read) : fail(`date cannot read ${JSON.stringify(text)}: ${read.invalidExplanation}`);
}

function readDate(text: string, zone: unknown, what: string): DateTime {
  const read = DateTime.fromISO(text, { zone: UTC }).setZone(zoneOf(zone)).setLocale('en');
  return read.isValid ? read : fail(`${what} cannot read ${JSON.stringify(text)} as an RFC 3339 date`);
}

function zoneOf(zone: unknown): string {
  if (zone === undefined) return UTC;
  const name = needText(zone, 'a time zone');
  return DateTime.utc().setZone(name).isValid ? name : fail(`there is no time zone ${name}`);
}

/** As `now` is written. */
function toText(date: DateTime): string {
  return date.toJSDate().toISOString();
}
