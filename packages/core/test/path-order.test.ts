import { describe, expect, test } from 'vitest';
import { type CompiledService, findOperation } from '../src/index.js';
import { caseFor, load, makeRequest, mistakes } from './support.js';

function serviceWith(...addresses: string[]): CompiledService {
  const operations = Object.fromEntries(addresses.map((on, i) => [`o${i}`, { on, cases: [] }]));
  return load(JSON.stringify({ upsetter: 1, service: 'paths', operations }));
}

/** The address a line leads to, with its parameters. */
function lead(service: CompiledService, line: string): string {
  const request = makeRequest(line);
  const destination = findOperation(service, request);
  if (destination.kind === 'other-method') return `allow ${destination.allow.join(' ')}`;
  if (destination.kind !== 'operation') return destination.kind;
  return [destination.operation.on, ...request.paramNames.map((name, i) => `${name}=${request.paramValues[i]}`)].join(
    ' ',
  );
}

describe('templates are compared segment by segment, left to right', () => {
  const service = serviceWith(
    'GET /berths/free',
    'GET /berths/{berthId}',
    'GET /berths/{berthId}/bookings',
    'DELETE /berths/{berthId}',
    'GET /files/{path...}',
    'GET /files/index',
    '* /any',
    'GET /any',
    'GET /',
  );
  test.each([
    ['a literal beats a parameter', 'GET /berths/free', 'GET /berths/free'],
    ['a parameter takes one segment', 'GET /berths/N7', 'GET /berths/{berthId} berthId=N7'],
    [
      'a literal does not hide a longer path behind a parameter',
      'GET /berths/free/bookings',
      'GET /berths/{berthId}/bookings berthId=free',
    ],
    [
      'a method that a literal lacks is looked for behind a parameter',
      'DELETE /berths/free',
      'DELETE /berths/{berthId} berthId=free',
    ],
    ['the tail takes what is left', 'GET /files/a/b/c', 'GET /files/{path...} path=a/b/c'],
    ['a literal beats the tail', 'GET /files/index', 'GET /files/index'],
    ['a named method beats *', 'GET /any', 'GET /any'],
    ['* takes every other method', 'PATCH /any', '* /any'],
    ['%2F stays inside its segment', 'GET /berths/a%2Fb', 'GET /berths/{berthId} berthId=a/b'],
    ['a broken percent-encoding is taken as it came', 'GET /berths/50%', 'GET /berths/{berthId} berthId=50%'],
    ['a trailing slash counts', 'GET /berths/N7/', 'none'],
    ['an empty segment is no parameter', 'GET /berths/', 'none'],
    ['the root', 'GET /', 'GET /'],
    ['the query is no part of the path', 'GET /berths/N7?x=/y', 'GET /berths/{berthId} berthId=N7'],
    ['HEAD is answered from GET', 'HEAD /berths/N7', 'GET /berths/{berthId} berthId=N7'],
    ['a known path with another method lists what it has', 'POST /berths/N7', 'allow DELETE GET HEAD OPTIONS'],
    ['an unknown path is none', 'GET /quays', 'none'],
  ])('%s', (_rule, line, expected) => {
    expect(lead(service, line)).toBe(expected);
  });

  describe('and parameters may be parts of a segment', () => {
    const mixed = serviceWith(
      'GET /berths/{berthId}',
      'GET /berths/{berthId}.{format}',
      'GET /berths/{berthId}.json',
      'POST /berths/{berthId}:free',
      'GET /tides/{from}..{to}/height',
      'GET /tides/{day}',
      'GET /charts/chart-{no}',
    );
    test.each([
      ['text beats a parameter', 'GET /berths/N7.json', 'GET /berths/{berthId}.json berthId=N7'],
      ['less text is tried after more', 'GET /berths/N7.xml', 'GET /berths/{berthId}.{format} berthId=N7 format=xml'],
      ['each is as short as can be', 'GET /berths/a.b.c', 'GET /berths/{berthId}.{format} berthId=a format=b.c'],
      ['none of them is empty', 'GET /berths/.json', 'GET /berths/{berthId} berthId=.json'],
      ['a whole segment is a parameter still', 'GET /berths/N7', 'GET /berths/{berthId} berthId=N7'],
      ['what stands behind counts', 'POST /berths/N7:free', 'POST /berths/{berthId}:free berthId=N7'],
      ['%2F stays inside', 'POST /berths/a%2Fb:free', 'POST /berths/{berthId}:free berthId=a/b'],
      ['text between two', 'GET /tides/1..9/height', 'GET /tides/{from}..{to}/height from=1 to=9'],
      ['a longer path that is none falls back', 'GET /tides/1..9', 'GET /tides/{day} day=1..9'],
      ['what stands before counts', 'GET /charts/chart-7', 'GET /charts/chart-{no} no=7'],
      ['and has to be there', 'GET /charts/map-7', 'none'],
    ])('%s', (_rule, line, expected) => {
      expect(lead(mixed, line)).toBe(expected);
    });
  });

  test('a path of thousands of segments is none, not a stack overflow', () => {
    expect(lead(service, `GET ${'/a'.repeat(20_000)}`)).toBe('none');
  });
});

describe('with `slashes: loose` a slash at the end does not count', () => {
  const text = (slashes: string) => `
upsetter: 1
service: lighthouse
slashes: ${slashes}
datasets: { lamps: { key: id, rows: [{ id: L1 }] } }
resources: { lamps: { at: /lamps/, allow: [list, read] } }
operations:
  root: { on: GET /, cases: [{ case: root, answer: {} }] }
  list: { on: GET /berths/, cases: [{ case: list, answer: {} }] }
  read: { on: "GET /berths/{id}", cases: [{ case: read, answer: {} }] }
`;

  test.each([
    ['GET /', 'root', 'root'],
    ['GET /berths', 'list', null],
    ['GET /berths/', 'list', 'list'],
    ['GET /berths/N7', 'read', 'read'],
    ['GET /berths/N7/', 'read', null],
    ['HEAD /berths', 'list', null],
    ['GET /lamps', 'resource', null],
    ['GET /lamps/', 'resource', 'resource'],
    ['GET /lamps/L1/', 'resource', null],
    ['GET /berths//', null, null],
  ])('%s leads to %s, and to %s where it counts', (line, loose, strict) => {
    expect(caseFor(load(text('loose')), line)).toBe(loose);
    expect(caseFor(load(text('strict')), line)).toBe(strict);
  });

  test('two operations that differ by it are the same one twice', () => {
    const twice = text('loose').replace('GET /,', 'GET /berths,');
    expect(mistakes(twice)).toEqual([expect.stringContaining('is answered by operation `root` already')]);
    expect(mistakes(twice.replace('loose', 'strict'))).toEqual([]);
  });
});
