import { type CompiledService, chooseCase, findOperation, loadService, RequestView } from '@upsetter/core';

/** Nanoseconds to find operation and case of one call, for services of different sizes. */
export interface MatchingFigures {
  readonly label: string;
  readonly nanos: readonly number[];
}

const CALLS_IN_BATCH = 20_000;
const NANOS_PER_MS = 1_000_000;

/** Operations: 10, 1,000, 10,000. Cases told apart by equality: 1, 10, 100, 1,000. Batches in turn, round after round. */
export function measureMatching(rounds: number): MatchingFigures[] {
  const subjects = [
    ...[10, 1_000, 10_000].map((count) => ({
      label: `${count} operations`,
      service: withOperations(count),
      lines: linesFor(count),
    })),
    ...[1, 10, 100, 1_000].map((count) => ({
      label: `${count} ${count === 1 ? 'case' : 'cases'}`,
      service: withCases(count),
      lines: queriesFor(count),
    })),
  ];
  const nanos = subjects.map(() => [] as number[]);
  for (const { service, lines } of subjects) runBatch(service, lines); // warm-up
  for (let round = 0; round < rounds; round++) {
    for (const [i, { service, lines }] of subjects.entries()) nanos[i]?.push(runBatch(service, lines));
  }
  return subjects.map(({ label }, i) => ({ label, nanos: nanos[i] ?? [] }));
}

function runBatch(service: CompiledService, lines: readonly string[]): number {
  const requests = Array.from(
    { length: CALLS_IN_BATCH },
    (_, i) => new RequestView('id', 'GET', lines[i % lines.length] ?? '/', [], 0),
  );
  const startedMs = performance.now();
  let found = 0;
  for (const request of requests) {
    const destination = findOperation(service, request);
    if (destination.kind === 'operation' && chooseCase(destination.operation, request, null) !== null) found++;
  }
  if (found !== CALLS_IN_BATCH) throw new Error(`only ${found} of ${CALLS_IN_BATCH} calls found their case`);
  return ((performance.now() - startedMs) * NANOS_PER_MS) / CALLS_IN_BATCH;
}

function withOperations(count: number): CompiledService {
  const operations = Object.fromEntries(
    Array.from({ length: count }, (_, i) => [
      `o${i}`,
      { on: `GET /quays/${i % 50}/berths${Math.floor(i / 50)}/{id}`, cases: [{ case: 'only', answer: { text: 'x' } }] },
    ]),
  );
  return compile(operations);
}

const linesFor = (count: number): string[] =>
  Array.from({ length: Math.min(count, 200) }, (_, k) => Math.floor((k * count) / Math.min(count, 200))).map(
    (i) => `/quays/${i % 50}/berths${Math.floor(i / 50)}/N7`,
  );

function withCases(count: number): CompiledService {
  const cases = Array.from({ length: count }, (_, i) => ({
    case: `c${i}`,
    when: { 'query port': `port${i}` },
    answer: { text: 'x' },
  }));
  return compile({ read: { on: 'GET /tides/{day}', cases } });
}

const queriesFor = (count: number): string[] => Array.from({ length: count }, (_, i) => `/tides/today?port=port${i}`);

function compile(operations: object): CompiledService {
  const loaded = loadService(JSON.stringify({ upsetter: 1, service: 'bench', operations }));
  if (loaded.kind === 'refused') throw new Error(loaded.problems[0]?.message);
  return loaded.service;
}
