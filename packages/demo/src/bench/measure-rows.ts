import { commitCall, findOperation, Lanes, loadService, RequestView } from '@upsetter/core';
import { type Spread, spreadOf } from './statistics.js';

const ROWS = 100_000;

export interface RowFigures {
  readonly label: string;
  readonly ms: Spread;
}

/** What calls of a resource with 100,000 rows take, after the lane's own first change. */
export function measureRows(rounds: number): RowFigures[] {
  const rows = Array.from({ length: ROWS }, (_, i) => ({
    no: i + 1,
    name: `Vessel ${(i * 7_919) % ROWS}`,
    length: 20 + ((i * 31) % 280),
    port: ['North', 'South', 'East', 'West'][(i * 13) % 4],
  }));
  const file = {
    upsetter: 1,
    service: 'bench',
    datasets: { vessels: { key: 'no', rows } },
    resources: { vessels: { at: '/vessels' } },
    operations: {},
  };
  const loaded = loadService(JSON.stringify(file));
  if (loaded.kind === 'refused') throw new Error(loaded.problems[0]?.message);
  const { service } = loaded;
  const lane = new Lanes('bench').get('main');
  const call = (method: string, target: string, body?: object): void => {
    const request = new RequestView('id', method, target, [], 0);
    request.body = body === undefined ? null : new TextEncoder().encode(JSON.stringify(body));
    const found = findOperation(service, request);
    if (found.kind !== 'operation') throw new Error(`${target} is not found`);
    const decision = commitCall(service, found.operation, request, lane, 0);
    if (decision.kind !== 'answered' || decision.answer.status >= 300) throw new Error(`${target} is not answered`);
  };
  const measure = (label: string, work: (i: number) => void, times: number): RowFigures => {
    for (let i = 0; i < times; i++) work(i);
    const ms = Array.from({ length: times * rounds }, (_, i) => {
      const startedMs = performance.now();
      work(times + i);
      return performance.now() - startedMs;
    });
    return { label, ms: spreadOf(ms) };
  };
  const PAGE = '/vessels?length.above=100&port=North&sort=name&page=3&size=50';
  const row = (i: number): string => `/vessels/${((i * 37) % ROWS) + 1}`;
  call('POST', '/vessels', { name: 'First' });
  return [
    measure('a page, filtered by two fields and sorted', () => call('GET', PAGE), 3),
    measure(
      'the same after a change',
      (i) => {
        call('PUT', row(i), { name: 'Changed', length: 120, port: 'North' });
        call('GET', PAGE);
      },
      3,
    ),
    measure(
      'a page in the middle of the whole list, sorted',
      () => call('GET', '/vessels?sort=name&offset=50000&limit=50'),
      3,
    ),
    measure('a row read by its key', (i) => call('GET', row(i)), 300),
    measure('a row written by its key', (i) => call('PUT', row(i), { name: 'Written', length: 30, port: 'East' }), 300),
    measure('a row created', (i) => call('POST', '/vessels', { name: `New ${i}` }), 300),
  ];
}
