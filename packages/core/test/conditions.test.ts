import { describe, expect, test } from 'vitest';
import { matchLike } from '../src/matching/like.js';
import { caseFor, explain, load, type Sent, serviceOf } from './support.js';

/** Whether one condition holds for a call. */
function holds(place: string, comparison: unknown, line: string, sent: Sent = {}): boolean {
  const when = JSON.stringify({ [place]: comparison });
  return (
    caseFor(load(serviceOf('"* /tides/{port}"', `- case: yes\n  when: ${when}\n  answer: {}`)), line, sent) === 'yes'
  );
}

describe('each place and comparison', () => {
  test.each<[string, unknown, string, Sent, boolean]>([
    ['method', 'PUT', 'PUT /tides/a', {}, true],
    ['method', { in: ['PUT', 'PATCH'] }, 'GET /tides/a', {}, false],
    ['path port', 'a b', 'GET /tides/a%20b', {}, true],
    ['path port', { like: 'sk*y' }, 'GET /tides/skerry', {}, true],
    ['path port', { like: 's?' }, 'GET /tides/skerry', {}, false],
    ['path port', { regex: '^sk' }, 'GET /tides/skerry', {}, true],
    ['path port', { regex: 'k.r' }, 'GET /tides/skerry', {}, true],
    ['query day', '2026-03-02', 'GET /tides/a?day=2026-03-02', {}, true],
    ['query day', { present: true }, 'GET /tides/a?day', {}, true],
    ['query day', { present: true }, 'GET /tides/a', {}, false],
    ['query day', { present: false }, 'GET /tides/a', {}, true],
    ['query day', { present: false }, 'GET /tides/a?day=', {}, false],
    ['query n', 5, 'GET /tides/a?n=5.0', {}, true],
    ['query n', '5', 'GET /tides/a?n=5.0', {}, false],
    ['query n', { above: 4, below: 6 }, 'GET /tides/a?n=5', {}, true],
    ['query n', { above: 5 }, 'GET /tides/a?n=5', {}, false],
    ['query n', { from: 5, to: 5 }, 'GET /tides/a?n=5', {}, true],
    ['query n', { above: 4 }, 'GET /tides/a?n=five', {}, false],
    ['query on', true, 'GET /tides/a?on=true', {}, true],
    ['query n', 'b', 'GET /tides/a?n=a&n=b', {}, true],
    ['query n', { above: 4, below: 6 }, 'GET /tides/a?n=1&n=9', {}, false],
    ['query q', 'a b', 'GET /tides/a?q=a+b', {}, true],
    ['query day', { from: '2026-03-02', to: '2026-03-04' }, 'GET /tides/a?day=2026-03-03T12:00:00Z', {}, true],
    ['query day', { above: '2026-03-02T00:00:00+02:00' }, 'GET /tides/a?day=2026-03-01T22:30:00Z', {}, true],
    ['header Accept', { like: '*json*' }, 'GET /tides/a', { headers: { accept: 'application/json' } }, true],
    ['json $.n', 5, 'POST /tides/a', { json: { n: 5 } }, true],
    ['json $.n', '5', 'POST /tides/a', { json: { n: 5 } }, false],
    ['json $.n', 5, 'POST /tides/a', { json: { n: '5' } }, false],
    ['json $.n', { above: 4 }, 'POST /tides/a', { json: { n: '5' } }, false],
    ['json $.n', null, 'POST /tides/a', { json: { n: null } }, true],
    ['json $.n', { present: true }, 'POST /tides/a', { json: { n: null } }, true],
    ['json $.n', { present: false }, 'POST /tides/a', { json: {} }, true],
    ['json $.n', { present: false }, 'POST /tides/a', { body: 'no json' }, true],
    ['json $.list', [1, 2], 'POST /tides/a', { json: { list: [1, 2] } }, true],
    ['json $.list[1]', 2, 'POST /tides/a', { json: { list: [1, 2] } }, true],
    ['json $.list[-1]', 2, 'POST /tides/a', { json: { list: [1, 2] } }, true],
    ['json $.list[*]', 2, 'POST /tides/a', { json: { list: [1, 2] } }, true],
    ['json $.list[*]', { present: false }, 'POST /tides/a', { json: { list: [] } }, true],
    ['json $.list[?@.deep > 5].id', 'N7', 'POST /tides/a', { json: { list: [{ deep: 8, id: 'N7' }] } }, true],
    ['json $.a', { is: { b: 1 } }, 'POST /tides/a', { json: { a: { b: 1 } } }, true],
    ['json $', { present: true }, 'POST /tides/a', { json: false }, true],
  ])('%s %j on %s %j: %s', (place, comparison, line, sent, expected) => {
    expect(holds(place, comparison, line, sent)).toBe(expected);
  });

  test('like costs at most text times pattern, whatever is sent', () => {
    expect(matchLike('a'.repeat(20_000), `${'*a'.repeat(50)}b`)).toBe(false);
  });
});

describe('the first case whose conditions all hold answers', () => {
  const service = load(
    serviceOf(
      'GET /tides/{port}',
      '- case: first\n  when: { path port: skerry, query day: x }\n  answer: {}\n- case: second\n  when: { path port: skerry }\n  answer: {}\n- case: third\n  answer: {}',
    ),
  );
  test.each([
    ['GET /tides/skerry?day=x', 'first'],
    ['GET /tides/skerry?day=y', 'second'],
    ['GET /tides/gullrock', 'third'],
  ])('%s: %s', (line, expected) => expect(caseFor(service, line)).toBe(expected));
});

describe('many cases told apart by equality are indexed, and answer as if they were tried one by one', () => {
  const ports = Array.from({ length: 40 }, (_, i) => `port${i % 30}`);
  const cases = ports.map(
    (port, i) => `- case: c${i}\n  when: { path port: ${port}${i % 3 === 0 ? ', query day: x' : ''} }\n  answer: {}`,
  );
  cases.splice(20, 0, '- case: anywhere on y\n  when: { query day: y }\n  answer: {}');
  const service = load(serviceOf('GET /tides/{port}', cases.join('\n')));
  const plain = { ...service, operations: service.operations.map((operation) => ({ ...operation, index: null })) };

  test('the index is there', () => expect(service.operations[0]?.index).not.toBeNull());

  test.each(['', '?day=x', '?day=y', '?day=z'])('for every port with %j', (query) => {
    for (let i = 0; i < 32; i++) {
      const line = `GET /tides/port${i}${query}`;
      const expected = explain(plain, line).ladder[0]?.cases.find((item) => item.outcome === 'answered')?.case ?? null;
      expect(caseFor(service, line), line).toBe(expected);
    }
  });
});

describe('why explains by the same conditions', () => {
  const service = load(
    serviceOf(
      'POST /tides/{port}',
      '- case: high\n  when: { path port: skerry, json $.height: { above: 2 }, json $.imo: "9321483" }\n  answer: {}',
    ),
  );

  test('wanted and found stand side by side, with what is easily overlooked', () => {
    const { summary, ladder } = explain(service, 'POST /tides/Skerry', { json: { height: '3', imo: 9321483 } });
    expect(summary).toBe('no case of asked holds');
    expect(ladder[0]?.cases[0]?.conditions).toEqual([
      {
        place: 'path port',
        wanted: '"skerry"',
        found: '"Skerry"',
        held: false,
        note: 'only upper and lower case differ',
      },
      { place: 'json $.height', wanted: 'above 2', found: '"3"', held: false, note: 'a number is wanted, a text came' },
      {
        place: 'json $.imo',
        wanted: '"9321483"',
        found: '9321483',
        held: false,
        note: 'a text is wanted, a number came',
      },
    ]);
  });

  test('a body that is no JSON is said to be none', () => {
    expect(explain(service, 'POST /tides/skerry', { body: '<xml/>' }).ladder[0]?.cases[0]?.conditions[1]?.note).toBe(
      'the body is not JSON',
    );
  });

  test('a path that no operation has names the nearest', () => {
    const { summary, ladder } = explain(service, 'POST /tide/skerry');
    expect(summary).toBe('no operation has this path; closest is asked (POST /tides/{port})');
    expect(ladder[0]?.address.map(({ place, held }) => [place, held])).toEqual([
      ['method', true],
      ['path', false],
    ]);
  });

  test('a secret header is compared in clear and never shown', () => {
    const guarded = load(
      serviceOf('GET /x', '- case: key\n  when: { header authorization: Bearer abc }\n  answer: {}'),
    );
    const sent = { headers: { authorization: 'Bearer xyz' } };
    expect(explain(guarded, 'GET /x', sent).ladder[0]?.cases[0]?.conditions[0]).toMatchObject({
      found: '(masked)',
      held: false,
    });
    expect(caseFor(guarded, 'GET /x', { headers: { authorization: 'Bearer abc' } })).toBe('key');
  });
});
