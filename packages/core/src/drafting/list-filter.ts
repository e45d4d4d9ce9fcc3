import type { JsonMap } from '../definition/json-map.js';
import { isSame, memberExpression, quote } from './leaves.js';

/** One filter of a list: which rows stay for the values one call gave, and how that is written. */
export interface ListFilter {
  /** The parameter it goes by; empty for one that is always there. */
  readonly name: string;
  readonly keeps: (row: JsonMap, given: ReadonlyMap<string, string>) => boolean;
  /** A condition of an expression over `item`. */
  readonly expression: string;
  readonly told: string;
}

/** What one call asked for and got: parameters of path and query, the rows there were, those that were listed. */
export interface ListCall {
  readonly given: ReadonlyMap<string, string>;
  readonly rows: readonly JsonMap[];
  readonly listed: readonly JsonMap[];
}

const DEEPEST = 2;

/** Fields of rows, nested ones by their steps. */
export function fieldsOf(rows: readonly JsonMap[]): (readonly string[])[] {
  const fields = new Map<string, readonly string[]>();
  const visit = (map: JsonMap, steps: readonly string[]): void => {
    for (const [name, value] of Object.entries(map)) {
      const own = [...steps, name];
      if (value !== null && typeof value === 'object') {
        if (!Array.isArray(value) && own.length < DEEPEST) visit(value as JsonMap, own);
      } else fields.set(own.join('\u0000'), own);
    }
  };
  for (const row of rows.slice(0, 200)) visit(row, []);
  return [...fields.values()];
}

export function readField(row: JsonMap, steps: readonly string[]): unknown {
  let at: unknown = row;
  for (const step of steps) at = at !== null && typeof at === 'object' ? (at as JsonMap)[step] : undefined;
  return at;
}

/** A filter by a parameter that `value` reads, when one field (or a comparison with it) explains every list that was asked with it. */
export function findParameterFilter(
  name: string,
  value: string,
  told: string,
  calls: readonly ListCall[],
): ListFilter | null {
  const asked = calls.filter((call) => call.given.has(name));
  const isAlways = asked.length === calls.length;
  const rows = calls.flatMap((call) => call.rows);
  const word = name.slice(name.lastIndexOf(' ') + 1);
  const fields = fieldsOf(rows).sort((a, b) => likeness(b.at(-1) ?? '', word) - likeness(a.at(-1) ?? '', word));
  for (const compare of COMPARISONS) {
    for (const field of fields) {
      if (!compare.fits(word, field, asked)) continue;
      const holds = (row: JsonMap, value: string): boolean => compare.holds(readField(row, field), value);
      if (!asked.every((call) => explains(call, name, holds))) continue;
      if (likeness(field.at(-1) ?? '', word) < 2 && !asked.some((call) => leavesOut(call, name, holds))) continue;
      const item = `item${memberExpression(field)}`;
      const isText = rows.every((row) => typeof (readField(row, field) ?? '') === 'string');
      const written = compare.write(item, value, isText);
      return {
        name,
        keeps: (row, given) => !given.has(name) || holds(row, given.get(name) ?? ''),
        expression: isAlways ? written : `(${value} == null || ${written})`,
        told: `${field.join('.')} ${compare.word} ${told}`,
      };
    }
  }
  return null;
}

/** Whether some row does not pass: else nothing speaks for a filter but its name. */
function leavesOut({ rows, given }: ListCall, name: string, holds: (row: JsonMap, value: string) => boolean): boolean {
  return rows.some((row) => !holds(row, given.get(name) ?? ''));
}

/** Every listed row passes, and at least one that was left out does not (or there was none to leave out). */
function explains(call: ListCall, name: string, holds: (row: JsonMap, value: string) => boolean): boolean {
  const value = call.given.get(name) ?? '';
  if (!call.listed.every((row) => holds(row, value))) return false;
  const kept = call.rows.filter((row) => holds(row, value));
  return kept.length < call.rows.length || call.listed.length === call.rows.length;
}

function likeness(field: string, name: string): number {
  const a = field.toLowerCase().replaceAll(/[^a-z0-9]/g, '');
  const b = name.toLowerCase().replaceAll(/[^a-z0-9]/g, '');
  if (a === b) return 3;
  return a.startsWith(b) || b.startsWith(a) || b.endsWith(a) ? 2 : 0;
}

interface FieldComparison {
  readonly word: string;
  readonly fits: (name: string, field: readonly string[], asked: readonly ListCall[]) => boolean;
  readonly holds: (value: unknown, wanted: string) => boolean;
  readonly write: (item: string, value: string, isText: boolean) => string;
}

const COMPARISONS: readonly FieldComparison[] = [
  {
    word: 'equals',
    fits: () => true,
    holds: (value, wanted) =>
      value !== null && value !== undefined && typeof value !== 'object' && String(value) === wanted,
    write: (item, value, isText) =>
      isText
        ? `${item} == ${value}`
        : `string(${item}) == ${value.startsWith('call.json') ? `string(${value})` : value}`,
  },
  {
    word: 'contains',
    fits: () => true,
    holds: (value, wanted) => typeof value === 'string' && value.toLowerCase().includes(wanted.toLowerCase()),
    write: (item, value) => `lower(string(${item})).contains(lower(${value}))`,
  },
  {
    word: 'is at least',
    fits: (_name, _field, asked) => asked.every(({ given, rows }) => given.size > 0 && rows.length > 0),
    holds: (value, wanted) =>
      typeof value === 'number' ? value >= Number(wanted) : typeof value === 'string' && value >= wanted,
    write: (item, value, isText) => (isText ? `${item} >= ${value}` : `${item} >= number(${value})`),
  },
  {
    word: 'is at most',
    fits: (_name, _field, asked) => asked.every(({ given, rows }) => given.size > 0 && rows.length > 0),
    holds: (value, wanted) =>
      typeof value === 'number' ? value <= Number(wanted) : typeof value === 'string' && value <= wanted,
    write: (item, value, isText) => (isText ? `${item} <= ${value}` : `${item} <= number(${value})`),
  },
];

/** A filter that is always there: only free berths, only what is not released. Null when no field explains it. */
export function findFixedFilter(calls: readonly ListCall[]): ListFilter | null {
  const rows = [...new Set(calls.flatMap((call) => call.rows))];
  // A field that differs in every row names rows; it does not sort them.
  const fields = fieldsOf(rows).filter(
    (field) => distinct(rows.map((row) => readField(row, field))).length < rows.length,
  );
  const parted = fields.map((field) => {
    const listed = distinct(calls.flatMap((call) => call.listed.map((row) => readField(row, field))));
    const others = distinct(
      calls.flatMap((call) =>
        call.rows.filter((row) => !call.listed.includes(row)).map((row) => readField(row, field)),
      ),
    );
    return { field, listed, others };
  });
  for (const { field, listed, others } of parted) {
    const [only] = listed;
    if (listed.length === 1 && !others.some((other) => isSame(other, only)))
      return fixed(field, `item${memberExpression(field)} == ${literal(only)}`, (value) =>
        isSame(value ?? null, only ?? null),
      );
  }
  for (const { field, listed, others } of parted) {
    const [left] = others;
    if (others.length === 1 && !listed.some((other) => isSame(other, left)))
      return fixed(
        field,
        `item${memberExpression(field)} != ${literal(left)}`,
        (value) => !isSame(value ?? null, left ?? null),
      );
  }
  return null;
}

/** A filter that the path itself names: `/berths/free` lists those that are `free`, even where all were. */
export function findNamedFilter(word: string, calls: readonly ListCall[]): ListFilter | null {
  const rows = calls.flatMap((call) => call.rows);
  const name = word.replaceAll(/[^A-Za-z0-9]/g, '').toLowerCase();
  const steps = fieldsOf(rows).find(
    (field) => field.length === 1 && field[0]?.replaceAll(/[^A-Za-z0-9]/g, '').toLowerCase() === name,
  );
  if (steps === undefined || !rows.every((row) => typeof readField(row, steps) === 'boolean')) return null;
  const isListed = ({ listed, rows: own }: ListCall): boolean =>
    own.every((row) => (readField(row, steps) === true) === listed.includes(row));
  if (!calls.every(isListed)) return null;
  return fixed(steps, `item${memberExpression(steps)} == true`, (value) => value === true);
}

/** A filter that is there unless a parameter lifts it: `?hidden=yes` lists the hidden, too. */
export function findLiftedFilter(names: readonly string[], calls: readonly ListCall[]): ListFilter | null {
  for (const name of names) {
    const lifting = calls.filter(({ given }) => given.has(name));
    const [value, ...others] = distinct(lifting.map(({ given }) => given.get(name)));
    if (typeof value !== 'string' || others.length > 0 || lifting.length === calls.length) continue;
    if (!lifting.every(({ listed, rows }) => listed.length === rows.length)) continue;
    const usual = findFixedFilter(calls.filter(({ given }) => !given.has(name)));
    if (usual === null) continue;
    return {
      name,
      keeps: (row, given) => given.get(name) === value || usual.keeps(row, given),
      expression: `(call.query${memberExpression([name])} == ${quote(value)} || ${usual.expression})`,
      told: `${usual.told} unless ${name} is ${value}`,
    };
  }
  return null;
}

function fixed(field: readonly string[], expression: string, holds: (value: unknown) => boolean): ListFilter {
  return { name: '', keeps: (row) => holds(readField(row, field)), expression, told: expression.replace('item.', '') };
}

function literal(value: unknown): string {
  return typeof value === 'string' ? quote(value) : String(value ?? null);
}

function distinct(values: readonly unknown[]): unknown[] {
  return [...new Map(values.map((value) => [JSON.stringify(value ?? null), value])).values()];
}
