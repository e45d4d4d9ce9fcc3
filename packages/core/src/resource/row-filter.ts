import type { FilterWord } from '../definition/resource.js';
import { matchLike } from '../matching/comparing/like.js';
import { readDate } from '../matching/comparing/read-value.js';
import type { Row } from '../state/rows.js';

export type RowTest = (row: Row) => boolean;
type FieldTest = (value: unknown) => boolean;

/** One filter of a list: a field (dots lead into maps), how it is compared, and with which texts; one of them is enough. */
export interface Filter {
  readonly field: string;
  readonly how: FilterWord;
  readonly texts: readonly string[];
}

/** Whether a row is as a filter says. What callers send is text: it is compared by the type that the field has. */
export function compileFilter({ field, how, texts }: Filter): RowTest {
  const tests = texts.map((text) => compileWord(how, text));
  const [only] = tests;
  const test: FieldTest =
    tests.length === 1 && only !== undefined
      ? only
      : how === 'isnt'
        ? (value) => tests.every((own) => own(value))
        : (value) => tests.some((own) => own(value));
  const read = compileField(field);
  return (row) => test(read(row));
}

/** Reads a field of a row; `berth.quay` leads into a map where no field is called so. */
export function compileField(field: string): (row: Row) => unknown {
  if (!field.includes('.')) {
    // Only names that every object has need a look at whose they are.
    return field in Object.prototype
      ? (row) => (Object.hasOwn(row, field) ? row[field] : undefined)
      : (row) => row[field];
  }
  const steps = field.split('.');
  return (row) => {
    if (Object.hasOwn(row, field)) return row[field];
    let value: unknown = row;
    for (const step of steps) {
      if (value === null || typeof value !== 'object' || !Object.hasOwn(value, step)) return undefined;
      value = (value as Row)[step];
    }
    return value;
  };
}

function compileWord(how: FilterWord, text: string): FieldTest {
  switch (how) {
    case 'is':
      return compileSame(text);
    case 'isnt': {
      const same = compileSame(text);
      return (value) => !same(value);
    }
    case 'in': {
      const tests = text.split(',').map(compileSame);
      return (value) => tests.some((test) => test(value));
    }
    case 'present': {
      const wanted = text !== 'false';
      return (value) => (value !== undefined && value !== null) === wanted;
    }
    case 'like':
      return (value) => typeof value !== 'object' && value !== undefined && matchLike(String(value), text);
    case 'has': {
      const same = compileSame(text);
      return (value) => (Array.isArray(value) ? value.some(same) : typeof value === 'string' && value.includes(text));
    }
    case 'starts':
      return (value) => typeof value === 'string' && value.startsWith(text);
    case 'ends':
      return (value) => typeof value === 'string' && value.endsWith(text);
    default:
      return compileSide(how, text);
  }
}

function compileSame(text: string): FieldTest {
  const number = text.trim() === '' ? Number.NaN : Number(text);
  return (value) => {
    if (typeof value === 'string') return value === text;
    if (typeof value === 'number') return value === number;
    if (typeof value === 'bigint') return String(value) === text.trim();
    if (typeof value === 'boolean') return String(value) === text;
    if (value === null || value === undefined) return text === 'null' || text === '';
    return Array.isArray(value) && value.some((item) => String(item) === text);
  };
}

const SIDES: Readonly<Record<string, (difference: number) => boolean>> = {
  above: (d) => d > 0,
  below: (d) => d < 0,
  from: (d) => d >= 0,
  to: (d) => d <= 0,
};

/** Numbers by size; texts as dates where both are (RFC 3339), else in the order of their characters. */
function compileSide(how: string, text: string): FieldTest {
  const accepts = SIDES[how] ?? (() => false);
  const number = text.trim() === '' ? Number.NaN : Number(text);
  const date = readDate(text);
  return (value) => {
    if (typeof value === 'number' || typeof value === 'bigint') return accepts(Number(value) - number);
    if (typeof value !== 'string') return false;
    const own = Number.isNaN(date) ? Number.NaN : readDate(value);
    if (!Number.isNaN(own)) return accepts(own - date);
    return accepts(value === text ? 0 : value < text ? -1 : 1);
  };
}

/** Whether a text stands in any field of a row, whatever its capitals. */
export function compileSearch(text: string): RowTest {
  const wanted = text.toLowerCase();
  return (row) => {
    for (const value of Object.values(row)) {
      if (typeof value === 'string') {
        if (value.toLowerCase().includes(wanted)) return true;
      } else if (typeof value === 'number' && String(value).includes(wanted)) return true;
    }
    return false;
  };
}
