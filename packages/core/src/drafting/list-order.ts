import type { JsonMap } from '../definition/json-map.js';
import { isSame, quote } from './leaves.js';
import { fieldsOf, type ListCall, readField } from './list-filter.js';
import { readListParameter } from './list-parameters.js';

/** An order of rows: how they are put in it, and how that is written. */
export interface ListOrder {
  readonly arrange: (rows: readonly JsonMap[], given: ReadonlyMap<string, string>) => readonly JsonMap[];
  readonly write: (list: string) => string;
  readonly told: string;
}

const AS_ARRIVED: ListOrder = { arrange: (rows) => rows, write: (list) => list, told: 'in order of arrival' };
const NEWEST_FIRST: ListOrder = {
  arrange: (rows) => [...rows].reverse(),
  write: (list) => `reverse(${list})`,
  told: 'newest first',
};

/** The order that every call shows; null when there is none. `kept`: for each call the rows left by the filters. */
export function findOrder(calls: readonly ListCall[], kept: readonly (readonly JsonMap[])[]): ListOrder | null {
  const plain = calls.flatMap((call, i) => (sortParameter(call) === null ? [i] : []));
  const base = fixedOrders(kept.flat()).find((order) => plain.every((i) => shows(order, calls[i], kept[i]))) ?? null;
  if (base === null || plain.length === calls.length) return base;
  const name = sortParameter(calls.find((call) => sortParameter(call) !== null) as ListCall);
  const order = name === null ? null : orderByParameter(name, base);
  return order !== null && calls.every((call, i) => shows(order, call, kept[i])) ? order : null;
}

function sortParameter(call: ListCall): string | null {
  return [...call.given.keys()].find((name) => readListParameter(name) === 'order') ?? null;
}

/** What was listed is a run of the arranged rows: all of them, or a page. */
function shows(order: ListOrder, call: ListCall | undefined, kept: readonly JsonMap[] | undefined): boolean {
  if (call === undefined || kept === undefined) return false;
  const arranged = order.arrange(kept, call.given);
  const [first] = call.listed;
  if (first === undefined) return true;
  const start = arranged.indexOf(first);
  return start >= 0 && call.listed.every((row, i) => isSame(arranged[start + i], row));
}

function fixedOrders(rows: readonly JsonMap[]): ListOrder[] {
  const fields = fieldsOf(rows).sort((a, b) => wonted(a) - wonted(b));
  const sorted = fields.flatMap((field) => {
    const up: ListOrder = {
      arrange: (list) => [...list].sort((a, b) => compare(readField(a, field), readField(b, field))),
      write: (list) => `sort(${list}, ${quote(field.join('.'))})`,
      told: `by ${field.join('.')}`,
    };
    const down: ListOrder = {
      arrange: (list, given) => [...up.arrange(list, given)].reverse(),
      write: (list) => `reverse(${up.write(list)})`,
      told: `by ${field.join('.')}, downwards`,
    };
    return [up, down];
  });
  return [AS_ARRIVED, NEWEST_FIRST, ...sorted];
}

/** Lists go by names first, then by moments; by keys last. */
function wonted(field: readonly string[]): number {
  const name = field.at(-1) ?? '';
  if (/^(name|title|label|position|rank)$/i.test(name)) return 0;
  if (/(at|date|time)$/i.test(name)) return 1;
  return /^(id|key|slug|code)$|Id$|_id$/i.test(name) ? 3 : 2;
}

/** `sort=name`, `sort=-name`: the field is named by the call. */
function orderByParameter(name: string, base: ListOrder): ListOrder {
  const value = `call.query${/^[A-Za-z_]\w*$/.test(name) ? `.${name}` : `[${quote(name)}]`}`;
  return {
    arrange: (rows, given) => {
      const field = given.get(name);
      if (field === undefined) return base.arrange(rows, given);
      const steps = field.replace(/^-/, '').split('.');
      const sorted = [...rows].sort((a, b) => compare(readField(a, steps), readField(b, steps)));
      return field.startsWith('-') ? sorted.reverse() : sorted;
    },
    write: (list) =>
      `${value} == null ? ${base.write(list)} : ${value}.startsWith('-') ? reverse(sort(${list}, ${value}.substring(1))) : sort(${list}, ${value})`,
    told: `by the field that query ${name} names`,
  };
}

/** As the function sort() of expressions does it. */
function compare(a: unknown, b: unknown): number {
  if (a === b) return 0;
  if (a === null || a === undefined) return 1;
  if (b === null || b === undefined) return -1;
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  return String(a) < String(b) ? -1 : 1;
}
