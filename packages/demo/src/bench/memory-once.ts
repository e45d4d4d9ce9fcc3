import { commitCall, findOperation, Lanes, loadService, RequestView } from '@upsetter/core';
import { BENCH_SERVICE, STATEFUL } from './service-file.js';

/** Bytes of heap that one operation and one lane take, told by a process of its own (run with --expose-gc). */
const COUNT = 5_000;

function heap(): number {
  (globalThis as { gc?: () => void }).gc?.();
  return process.memoryUsage().heapUsed;
}

function load(text: string) {
  const loaded = loadService(text);
  if (loaded.kind === 'refused') throw new Error(loaded.problems[0]?.message);
  return loaded.service;
}

const operations = Object.fromEntries(
  Array.from({ length: COUNT }, (_, i) => [
    `o${i}`,
    {
      on: `GET /quays/${i}/berths/{id}`,
      cases: [
        { case: 'known', when: { 'query port': 'North' }, answer: { json: { id: '${call.path.id}', at: '${now}' } } },
      ],
    },
  ]),
);
load(BENCH_SERVICE);
const before = heap();
const large = load(JSON.stringify({ upsetter: 1, service: 'large', operations }));
const operationBytes = (heap() - before) / COUNT;

const service = load(BENCH_SERVICE);
const lanes = new Lanes('bench');
const visit = (lane: string): void => {
  const request = new RequestView('id', 'POST', STATEFUL.path, [], 0);
  request.body = new TextEncoder().encode(STATEFUL.body);
  const found = findOperation(service, request);
  if (found.kind === 'operation') commitCall(service, found.operation, request, lanes.get(lane), 0);
};
visit('main');
const empty = heap();
for (let i = 0; i < COUNT; i++) visit(`lane ${i}`);
const laneBytes = (heap() - empty) / COUNT;
if (lanes.list().length !== COUNT + 1 || large.operations.length !== COUNT)
  throw new Error('not all of them are there');
console.log(JSON.stringify({ operationBytes, laneBytes }));
