import { findNearest } from '../definition/nearest.js';
import type { QueryValue, RequestView } from '../request/request-view.js';
import type { CompiledResource } from './compiled-resource.js';
import type { WantedParts } from './present-rows.js';
import type { Relation } from './relations.js';
import { compileFilter, compileSearch, type RowTest } from './row-filter.js';
import { parseSort, type SortKey } from './row-order.js';

/** What a call asks of a list. */
export interface ListCall {
  readonly tests: readonly RowTest[];
  readonly sort: readonly SortKey[];
  readonly offset: number;
  readonly size: number;
  /** Whether it counts in rows, not in pages. */
  readonly isSlice: boolean;
  readonly wanted: WantedParts;
}

/** What is asked for, or why it cannot be. */
export type ReadQuery<T> =
  | { readonly kind: 'read'; readonly value: T }
  | { readonly kind: 'refused'; readonly parameter: string; readonly reason: string };

export function readListCall(resource: CompiledResource, request: RequestView): ReadQuery<ListCall> {
  const parts = readWantedParts(resource, request);
  if (parts.kind === 'refused') return parts;
  const { query } = resource;
  const tests: RowTest[] = [];
  const values = request.queries();
  for (const parameter of Object.keys(values)) {
    if (resource.secrets.has(parameter.toLowerCase())) continue;
    const texts = textsOf(values[parameter]);
    const filter = query.readFilter(parameter);
    if (filter !== null && isKnownField(resource, filter.field)) tests.push(compileFilter({ ...filter, texts }));
    else if (resource.definition.strict === true && !isRole(resource, parameter))
      return refuse(parameter, unknownParameter(resource, filter?.field ?? parameter));
  }
  const searched = textOf(request, query.search);
  if (searched !== null && searched !== '') tests.push(compileSearch(searched));
  const slice = readSlice(resource, request);
  if (slice.kind === 'refused') return slice;
  return { kind: 'read', value: { tests, sort: readSort(resource, request), ...slice.value, wanted: parts.value } };
}

/** Fields and related rows that a call asks for. */
export function readWantedParts(resource: CompiledResource, request: RequestView): ReadQuery<WantedParts> {
  const { query, relations } = resource;
  const fields = textOf(request, query.fields);
  const asked: Relation[] = [...relations.values()].filter((relation) => relation.always);
  for (const name of splitList(textOf(request, query.with))) {
    const relation = relations.get(name);
    if (relation === undefined) {
      const all = [...relations.keys()];
      const there = all.length === 0 ? 'it has none' : `there is ${all.join(', ')}`;
      return refuse(query.with ?? '', `${resource.name} has no relation ${JSON.stringify(name)}; ${there}`);
    }
    if (!asked.includes(relation)) asked.push(relation);
  }
  return { kind: 'read', value: { fields: fields === null ? null : splitList(fields), relations: asked } };
}

function readSort(resource: CompiledResource, request: RequestView): readonly SortKey[] {
  const { query } = resource;
  const text = textOf(request, query.sort);
  if (text === null) return resource.sort;
  const directions = splitList(textOf(request, query.order));
  return parseSort(text).map((key, i) =>
    directions[i] === undefined ? key : { ...key, isDescending: /^desc/i.test(directions[i]) },
  );
}

function readSlice(
  { query, page }: CompiledResource,
  request: RequestView,
): ReadQuery<Pick<ListCall, 'offset' | 'size' | 'isSlice'>> {
  const offset = readCount(request, query.offset, 0);
  const limit = readCount(request, query.limit, 1);
  const number = readCount(request, query.page, page.first);
  const size = readCount(request, query.size, 1);
  for (const count of [offset, limit, number, size]) if (count !== null && count.kind === 'refused') return count;
  const asked = countOf(limit) ?? countOf(size) ?? page.size;
  const length = Math.min(asked, page.most);
  const isSlice = offset !== null;
  const from = countOf(offset) ?? ((countOf(number) ?? page.first) - page.first) * length;
  return { kind: 'read', value: { offset: from, size: length, isSlice } };
}

function readCount(request: RequestView, parameter: string | null, least: number): ReadQuery<number> | null {
  const text = textOf(request, parameter);
  if (text === null || parameter === null) return null;
  const value = /^\d{1,9}$/.test(text) ? Number(text) : -1;
  if (value >= least) return { kind: 'read', value };
  return refuse(parameter, `a whole number from ${least} is expected, not ${JSON.stringify(text)}`);
}

function countOf(count: ReadQuery<number> | null): number | null {
  return count === null || count.kind === 'refused' ? null : count.value;
}

function isKnownField({ fields }: CompiledResource, field: string): boolean {
  return fields === null || fields.has(field) || fields.has(field.split('.')[0] ?? '');
}

function isRole({ query }: CompiledResource, parameter: string): boolean {
  const { search, sort, order, page, size, offset, limit, fields, with: related } = query;
  return [search, sort, order, page, size, offset, limit, fields, related].includes(parameter);
}

function unknownParameter({ name, fields }: CompiledResource, field: string): string {
  const nearest = findNearest(field, [...(fields ?? [])]);
  const hint = nearest === null ? `it has ${[...(fields ?? [])].join(', ')}` : `did you mean ${nearest}?`;
  return `${name} has no field ${JSON.stringify(field)}; ${hint}`;
}

function textsOf(value: QueryValue): readonly string[] {
  return value === undefined ? [] : typeof value === 'string' ? [value] : value;
}

function textOf(request: RequestView, parameter: string | null): string | null {
  return parameter === null ? null : (textsOf(request.query(parameter)).at(-1) ?? null);
}

function splitList(text: string | null): readonly string[] {
  return (text ?? '')
    .split(',')
    .map((part) => part.trim())
    .filter((part) => part !== '');
}

function refuse(parameter: string, reason: string): ReadQuery<never> {
  return { kind: 'refused', parameter, reason };
}
