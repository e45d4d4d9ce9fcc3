import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import type { Callers } from './callers.js';
import { pathOf } from './features.js';
import { isSame, memberExpression, quote } from './leaves.js';
import { findCursor, isCursor, type ListCursor } from './list-cursor.js';
import {
  findFixedFilter,
  findLiftedFilter,
  findNamedFilter,
  findParameterFilter,
  type ListCall,
  type ListFilter,
} from './list-filter.js';
import { findOrder } from './list-order.js';
import { findPage } from './list-page.js';
import { readListParameter } from './list-parameters.js';
import type { Member } from './member.js';
import { identityOf, showExpression, showRow, toRow } from './owner.js';
import type { RecordKind } from './record-kind.js';

/** A list of an answer as an expression over a dataset. */
export interface DraftedList {
  /** All rows that fit, in order; null when it is the same as what is shown. */
  readonly whole: string | null;
  readonly shown: string;
  /** How many fit, for each member. */
  readonly counts: readonly number[];
  /** What the answer showed, for each member. */
  readonly values: readonly (readonly unknown[])[];
  readonly told: string;
  /** Where pages that are asked for by a cursor begin, and what leads to the next; null where there are none. */
  readonly cursor: ListCursor | null;
}

interface ListScope {
  readonly operation: { readonly paramNames: readonly (string | null)[]; readonly parts: readonly (string | null)[] };
  readonly callers: Callers | null;
}

/** What lists are asked with beside their parameters: who asks. */
const CALLER = '\u0000caller';

/** The dataset expression that gives what every member listed; null when none does. `listed`: what the answers showed. */
export function draftList(
  kind: RecordKind,
  members: readonly Member[],
  listed: readonly (readonly JsonMap[])[],
  { operation: { paramNames, parts }, callers }: ListScope,
): DraftedList | null {
  const calls = members.map((member, i) => toCall(kind, member, listed[i] ?? [], paramNames));
  if (calls.some((call) => call === null)) return null;
  const known = calls as ListCall[];
  const cursors = new Set(
    known.flatMap(({ given }) => [...given.keys()]).filter((name) => isCursor(name, known, members)),
  );
  const filters = findFilters(
    known.map((call) => ({ ...call, given: new Map([...call.given].filter(([name]) => !cursors.has(name))) })),
    paramNames.filter((name) => name !== null),
    callers,
    parts.at(-1) ?? null,
  );
  const kept = known.map((call) => call.rows.filter((row) => filters.every((filter) => filter.keeps(row, call.given))));
  const used = new Set(filters.map(({ name }) => name));
  const others = known.map((call) => ({
    ...call,
    given: new Map([...call.given].filter(([name]) => !used.has(name))),
  }));
  const order = findOrder(others, kept);
  if (order === null) return null;
  const arranged = others.map((call, i) => order.arrange(kept[i] ?? [], call.given));
  const page = findPage(others, arranged);
  const cursor = page === null ? findCursor({ members, calls: others, arranged, key: kind.key }) : null;
  if (page === null && cursor === null) return null;
  const view = findView(
    kind,
    listed.flat(),
    known.flatMap((call) => call.listed),
  );
  if (view === null) return null;
  const data = `data.${kind.name}`;
  const filtered = filters.length === 0 ? data : `${data}.filter(item, ${joinFilters(filters)})`;
  const whole = order.write(filtered);
  const paged = cursor?.shown ?? page?.write('let.found') ?? '';
  const told = cursor?.told ?? page?.told ?? '';
  const isPaged = told !== '';
  const toldFilters = filters.map((filter) => filter.told).join(', ');
  return {
    whole: isPaged ? whole : null,
    shown: (isPaged ? paged : whole) + view,
    counts: arranged.map((rows) => rows.length),
    values: listed,
    told: [toldFilters === '' ? `all ${kind.name}` : `${kind.name} by ${toldFilters}`, order.told, told]
      .filter((text) => text !== '')
      .join('; '),
    cursor,
  };
}

function joinFilters(filters: readonly ListFilter[]): string {
  const [only] = filters;
  if (filters.length === 1 && only !== undefined) return only.expression.replace(/^\((.*)\)$/, '$1');
  return filters.map((filter) => filter.expression).join(' && ');
}

/** Each shown map with the row it shows; null when a row is not known. */
function toCall(
  kind: RecordKind,
  member: Member,
  listed: readonly JsonMap[],
  paramNames: readonly (string | null)[],
): ListCall | null {
  const rows = member.rows.get(kind.name) ?? [];
  const byIdentity = new Map(rows.map((row) => [identityOf(kind, row), row]));
  const shown = listed.map((map) => {
    const row = toRow(kind, map, member.heard);
    return row === null ? undefined : byIdentity.get(identityOf(kind, row));
  });
  if (shown.some((row) => row === undefined)) return null;
  const given = new Map(member.heard.query);
  paramNames.forEach((name, i) => {
    if (name !== null) given.set(name, member.heard.segments[i] ?? '');
  });
  for (const [field, value] of askedInBody(member)) given.set(`${BODY}${field}`, String(value));
  if (member.heard.caller !== null) given.set(CALLER, member.heard.caller);
  return { given, rows, listed: shown as JsonMap[] };
}

/** Fields of the body that a posted question asks with. */
function askedInBody({ heard: { isWrite, exchange, sentJson } }: Member): (readonly [string, unknown])[] {
  if (isWrite || exchange.method !== 'POST' || !isJsonMap(sentJson)) return [];
  return Object.entries(sentJson).filter(([, value]) => value !== null && typeof value !== 'object');
}

const BODY = '\u0000json ';

/** How the file reads a parameter, and what it is called. */
function readOf(name: string, paramNames: readonly string[]): { readonly text: string; readonly told: string } {
  if (name.startsWith(BODY)) {
    const field = name.slice(BODY.length);
    return { text: `call.json${memberExpression([field])}`, told: `json $${pathOf([field])}` };
  }
  const group = paramNames.includes(name) ? 'path' : 'query';
  return { text: `call.${group}${memberExpression([name])}`, told: `${group} ${name}` };
}

function isPaging(name: string): boolean {
  return readListParameter(name) !== null;
}

function findFilters(
  calls: readonly ListCall[],
  paramNames: readonly string[],
  callers: Callers | null,
  word: string | null,
): ListFilter[] {
  const names = new Set(calls.flatMap((call) => [...call.given.keys()]));
  names.delete(CALLER);
  const own = callers === null ? null : findParameterFilter(CALLER, callers.read, 'the caller', calls);
  const filters = [...names]
    .filter((name) => paramNames.includes(name) || !isPaging(name) || isField(name, calls))
    .flatMap((name) => {
      const read = readOf(name, paramNames);
      return findParameterFilter(name, read.text, read.told, calls) ?? [];
    });
  if (own !== null) filters.unshift(own);
  const left = calls.map((call) => ({
    ...call,
    rows: call.rows.filter((row) => filters.every((filter) => filter.keeps(row, call.given))),
  }));
  const isPaged = [...names].some((name) => isPaging(name) && readListParameter(name) !== 'order');
  const isMissing = left.some((call) => call.listed.length < call.rows.length);
  const used = new Set(filters.map(({ name }) => name));
  const free = [...names].filter(
    (name) => !used.has(name) && !paramNames.includes(name) && !isPaging(name) && !name.startsWith(BODY),
  );
  const found = isMissing && !isPaged ? (findLiftedFilter(free, left) ?? findFixedFilter(left)) : null;
  const fixed = found ?? (word === null ? null : findNamedFilter(word, left));
  return fixed === null ? filters : [...filters, fixed];
}

/** A parameter called like one that orders or cuts, but also like a field of the rows. */
function isField(name: string, calls: readonly ListCall[]): boolean {
  return calls.some((call) => call.rows.some((row) => Object.hasOwn(row, name)));
}

/** How a row is shown: as it is (an empty text), or some of its fields. Null when what is shown is not in the row. */
function findView(kind: RecordKind, shown: readonly JsonMap[], rows: readonly JsonMap[]): string | null {
  const whole = rows.map((row) => showRow(kind, row));
  if (shown.every((map, i) => isSame(map, whole[i]) || isSameUnordered(map, whole[i])))
    return kind.owner === null || kind.owner.hidden.length === 0 ? '' : `.map(item, ${showExpression(kind, 'item')})`;
  const fields = [...new Set(shown.flatMap((map) => Object.keys(map)))];
  const isOfRow = shown.every((map, i) =>
    Object.entries(map).every(([field, value]) => isSame(value, rows[i]?.[field])),
  );
  if (!isOfRow) return null;
  const members = fields.map((field) => {
    const isAlways = shown.every((map) => Object.hasOwn(map, field));
    const read = `item${memberExpression([field])}`;
    return `${quote(field)}: ${isAlways ? read : `item${memberExpression([field]).replace(/^\./, '.?').replace(/^\[/, '[?')}.orValue(omit)`}`;
  });
  return `.map(item, {${members.join(', ')}})`;
}

function isSameUnordered(a: JsonMap, b: JsonMap | undefined): boolean {
  if (b === undefined) return false;
  const names = Object.keys(a);
  return names.length === Object.keys(b).length && names.every((name) => isSame(a[name], b[name]));
}
