import type { Frame } from '../expression/frame.js';
import type { RequestView } from '../request/request-view.js';
import { isSameValue, type Row, type Where } from '../state/rows.js';
import type { CompiledResource } from './compiled-resource.js';
import { type Outcome, type Page, refuseCall } from './findings.js';
import { presentRows } from './present-rows.js';
import { type ListCall, readListCall } from './read-list-call.js';
import type { RowTest } from './row-filter.js';
import { sortSlice } from './row-order.js';

/** The page of a list that a call asks for. `owned`: whose rows it is about, by the path. */
export function listRows(resource: CompiledResource, frame: Frame, owned: Where): Outcome {
  const { request } = frame;
  const read = readListCall(resource, request);
  if (read.kind === 'refused')
    return refuseCall('malformed', 'The list cannot be asked for so', `query ${read.parameter}: ${read.reason}`);
  const { tests, sort, offset, size, wanted } = read.value;
  const all = frame.lane.data.rows(resource.dataset, frame.start)?.list() ?? [];
  const kept = keepRows(all, owned, tests);
  const chosen = sort.length === 0 ? kept.slice(offset, offset + size) : sortSlice(kept, sort, offset, offset + size);
  const { rows, included } = presentRows(resource, frame, chosen, wanted);
  const page = { ...describePage(resource, request, read.value, kept.length), rows, included };
  return { kind: 'listed', row: null, findings: { page, trouble: null }, tag: null, location: null };
}

function keepRows(rows: readonly Row[], owned: Where, tests: readonly RowTest[]): readonly Row[] {
  if (owned.length === 0 && tests.length === 0) return rows;
  const all = [
    ...owned.map(
      ([field, value]): RowTest =>
        (row) =>
          isSameValue(row[field], value),
    ),
    ...tests,
  ];
  return rows.filter((row) => {
    for (const test of all) if (!test(row)) return false;
    return true;
  });
}

function describePage(
  { query, page: { first }, secrets }: CompiledResource,
  request: RequestView,
  { offset, size, isSlice }: ListCall,
  total: number,
): Omit<Page, 'rows' | 'included'> {
  const self = withoutSecrets(request.target, secrets);
  const count = Math.max(1, Math.ceil(total / size));
  const counter = isSlice ? query.offset : query.page;
  const at = (from: number): string | null =>
    counter === null ? null : replaceParameter(self, counter, String(isSlice ? from : from / size + first));
  const lastOffset = Math.max(0, Math.ceil((total - (offset % size)) / size) - 1) * size + (offset % size);
  const links = {
    first: at(0),
    prev: offset > 0 ? at(Math.max(0, offset - size)) : null,
    next: offset + size < total ? at(offset + size) : null,
    last: at(isSlice ? lastOffset : (count - 1) * size),
  };
  const link = Object.entries(links).flatMap(([rel, address]) =>
    address === null ? [] : [`<${address}>; rel="${rel}"`],
  );
  return {
    total,
    size,
    count,
    offset,
    number: Math.floor(offset / size) + first,
    self,
    ...links,
    link: link.join(', '),
  };
}

/** What lets the caller in is its own: answers do not repeat it. */
function withoutSecrets(target: string, secrets: ReadonlySet<string>): string {
  if (secrets.size === 0) return target;
  const query = new URLSearchParams(queryOf(target));
  for (const name of [...query.keys()]) if (secrets.has(name.toLowerCase())) query.delete(name);
  return joinQuery(target, query);
}

/** The same path and query with another value for one parameter. */
function replaceParameter(target: string, name: string, value: string): string {
  const query = new URLSearchParams(queryOf(target));
  query.set(name, value);
  return joinQuery(target, query);
}

function queryOf(target: string): string {
  const mark = target.indexOf('?');
  return mark < 0 ? '' : target.slice(mark + 1);
}

function joinQuery(target: string, query: URLSearchParams): string {
  const [path = ''] = target.split('?', 1);
  // Brackets are read as they are by every client, and people read them too.
  const text = query.toString().replaceAll('%5B', '[').replaceAll('%5D', ']');
  return text === '' ? path : `${path}?${text}`;
}
