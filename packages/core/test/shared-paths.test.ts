import { describe, expect, test } from 'vitest';
import { explainCall, findOverlaps, findUnreachable } from '../src/index.js';
import { decide, load, makeRequest, mistakes, type Sent } from './support.js';

const FILE = `
upsetter: 1
service: harbour-calls
operations:
  book:
    on: { call: POST /rpc, when: { json $.method: book } }
    cases: [{ case: booked, answer: { json: { booked: "\${call.json.params.berth}" } } }]
  free:
    on: { call: POST /rpc, when: { json $.method: { in: [free, release] } } }
    cases: [{ case: freed, answer: { json: { freed: true } } }]
  listBerths:
    on: { call: "GET /query/{kind}", when: { query q: { has: berths }, path kind: graph } }
    cases: [{ case: listed, answer: { text: berths } }]
  other:
    on: "GET /query/{kind}"
    cases: [{ case: any, answer: { text: other } }]
`;
const SERVICE = load(FILE);

const answered = (line: string, sent: Sent = {}) => {
  const decision = decide(SERVICE, line, sent);
  return decision.kind === 'answered' ? decision.caseName : decision.kind;
};

describe('operations that share method and path', () => {
  test.each<[string, Sent, string]>([
    ['POST /rpc', { json: { method: 'book', params: { berth: 'N7' } } }, 'booked'],
    ['POST /rpc', { json: { method: 'release' } }, 'freed'],
    ['POST /rpc', { json: { method: 'sink' } }, 'stray'],
    ['POST /rpc', {}, 'stray'],
    ['GET /query/graph?q=berths{id}', {}, 'listed'],
    ['GET /query/other?q=berths{id}', {}, 'any'],
    ['GET /query/graph?q=tides', {}, 'any'],
    ['HEAD /query/graph?q=berths', {}, 'listed'],
    ['PUT /rpc', {}, 'stray'],
  ])('%s with %j leads to %s', (line, sent, expected) => {
    expect(answered(line, sent)).toBe(expected);
  });

  test('say what a call lacks that leads to none of them', () => {
    const { summary, ladder } = explainCall(SERVICE, makeRequest('POST /rpc', { json: { method: 'sink' } }), null);
    expect(summary).toContain('no operation with this method and path takes the call');
    expect(ladder[0]).toMatchObject({
      operation: 'book',
      reached: false,
      address: [
        { place: 'method' },
        { place: 'path' },
        { place: 'json $.method', wanted: '"book"', found: '"sink"', held: false },
      ],
    });
  });

  test('are not told as covering one another', () => {
    expect(findOverlaps(SERVICE)).toEqual([]);
    expect(findUnreachable(SERVICE)).toEqual([]);
  });

  test.each([
    [FILE.replace('{ in: [free, release] }', 'book'), 'is answered by operation `book` already'],
    [FILE.replace('json $.method: book', 'state x: book'), '`state` cannot be asked here yet'],
    [FILE.replace('json $.method: book', 'path berth: book'), 'has no parameters'],
    [
      FILE.replace('call: POST /rpc, when: { json $.method: book }', 'call: POST /rpc'),
      '`when` maps places to comparisons',
    ],
  ])('with mistakes are refused with their line', (text, message) => {
    expect(mistakes(text)).toEqual([expect.stringMatching(/^\d+:\d+ /)]);
    expect(mistakes(text)[0]).toContain(message);
  });
});
