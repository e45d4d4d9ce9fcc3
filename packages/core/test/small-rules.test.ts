import { describe, expect, test } from 'vitest';
import {
  findNearest,
  maskHeaders,
  parseDuration,
  parseShare,
  planUpsets,
  readLaneName,
  renderDuration,
} from '../src/index.js';
import { Lanes, MOST_LANES } from '../src/state/lane.js';
import { load, makeRequest } from './support.js';

test.each([
  ['800ms', 800],
  ['1.5s', 1500],
  ['2m', 120_000],
  ['1h', 3_600_000],
  ['25h', null],
  ['soon', null],
  ['5', null],
  ['-1s', null],
])('the duration %s is %s ms', (text, ms) => {
  expect(parseDuration(text)).toBe(ms);
});

test.each([
  [800, '800ms'],
  [1500, '1.5s'],
  [0.25, '0.25ms'],
])('%s ms are written %s', (ms, text) => expect(renderDuration(ms)).toBe(text));

test.each([
  ['30%', 0.3],
  ['100%', 1],
  ['0%', 0],
  ['101%', null],
  ['half', null],
])('the share %s is %s', (text, share) => expect(parseShare(text)).toBe(share));

test.each([
  ['raedBerth', 'readBerth'],
  ['statsu', 'status'],
  ['zzz', null],
])('nearest to %s is %s', (word, nearest) => {
  expect(findNearest(word, ['status', 'readBerth', 'headers'])).toBe(nearest);
});

describe('the lane of a call', () => {
  test.each<[Record<string, string>, string | null]>([
    [{}, null],
    [{ 'upsetter-lane': 'night' }, 'night'],
    [{ baggage: 'user=a, lane=night;p=1' }, 'night'],
    [{ baggage: 'lane=a%20b' }, 'a b'],
    [{ baggage: 'plane=x' }, null],
    [{ 'upsetter-lane': 'own', baggage: 'lane=night' }, 'own'],
  ])('of %j is %s', (headers, lane) =>
    expect(readLaneName(headers['upsetter-lane'] ?? null, headers['baggage'] ?? null)).toBe(lane),
  );

  test('lanes are bounded: the least recently used makes room, main never does', () => {
    const lanes = new Lanes('s');
    lanes.get('main').next('n');
    lanes.get('first').next('n');
    for (let i = 0; i < MOST_LANES; i++) lanes.get(`lane ${i}`);
    expect([lanes.get('first').next('n'), lanes.get('main').next('n')]).toEqual([1, 2]);
  });
});

describe('secrets in headers are masked, what is no secret stays', () => {
  test.each([
    ['Authorization', 'Bearer abc.def', 'Bearer (masked)'],
    ['authorization', 'abc', '(masked)'],
    ['cookie', 'a=1; b=2', 'a=(masked); b=(masked)'],
    ['Set-Cookie', 'gauge=7f; Path=/', 'gauge=(masked); Path=/'],
    ['accept', 'text/plain', 'text/plain'],
  ])('%s: %s', (name, value, masked) =>
    expect(maskHeaders(['host', 'a', name, value])).toEqual(['host', 'a', name, masked]),
  );
});

describe('upsets that hold', () => {
  const service = load(
    'upsetter: 1\nservice: lamp\noperations:\n  read: { on: GET /lamp, cases: [] }\n  light: { on: POST /lamp, cases: [] }\nupsets:\n  - { upset: slow, of: [read], delay: 300ms }\n  - { upset: slower, delay: 200ms, when: { query q: x } }\n  - { upset: down, of: [light], answer: { status: 503 } }\n  - { upset: half, share: 50%, delay: 1ms, of: [light] }\n',
  );
  const plan = (line: string, operation: string, lanes = new Lanes('s')) =>
    planUpsets(service.upsets, operation, makeRequest(line), lanes.get('main'));

  test('add their delays; conditions and operations limit them', () => {
    expect(plan('GET /lamp?q=x', 'read')).toMatchObject({ names: ['slow', 'slower'], delayMs: 500, answeredBy: null });
    expect(plan('GET /lamp', 'other')).toBeNull();
  });

  test('put their answer in the place of the case', () => {
    expect(plan('POST /lamp', 'light')?.answeredBy?.name).toBe('down');
  });

  test('a drawn delay is spread as it says, and the same for the same call every time', () => {
    const spread = load(
      'upsetter: 1\nservice: lamp\noperations: { read: { on: GET /lamp, cases: [] } }\nupsets:\n  - { upset: uneven, delay: { median: 300ms, p95: 1.2s } }\n',
    );
    const even = load(
      'upsetter: 1\nservice: lamp\noperations: { read: { on: GET /lamp, cases: [] } }\nupsets:\n  - { upset: even, delay: { low: 100ms, high: 200ms } }\n',
    );
    const draw = (of: typeof spread): number[] => {
      const lanes = new Lanes('s');
      const request = makeRequest('GET /lamp');
      return Array.from(
        { length: 2000 },
        () => planUpsets(of.upsets, 'read', request, lanes.get('main'))?.delayMs ?? 0,
      );
    };
    const sorted = draw(spread).sort((a, b) => a - b);
    expect(draw(spread)).toEqual(draw(spread));
    expect(sorted[1000]).toBeGreaterThan(270);
    expect(sorted[1000]).toBeLessThan(330);
    expect(sorted[1900]).toBeGreaterThan(1000);
    expect(sorted[1900]).toBeLessThan(1400);
    const evenly = draw(even).sort((a, b) => a - b);
    expect(evenly[0]).toBeGreaterThanOrEqual(100);
    expect(evenly.at(-1)).toBeLessThan(200);
    expect(evenly[1000]).toBeGreaterThan(144);
    expect(evenly[1000]).toBeLessThan(156);
  });

  test('a share holds for about that many calls, the same ones every time', () => {
    const draw = () => {
      const lanes = new Lanes('s');
      return Array.from({ length: 400 }, () => plan('POST /lamp', 'light', lanes)?.names.includes('half') ?? false);
    };
    const held = draw();
    expect(held.filter(Boolean).length).toBeGreaterThan(160);
    expect(held.filter(Boolean).length).toBeLessThan(240);
    expect(draw()).toEqual(held);
  });
});
