import { describe, expect, test } from 'vitest';
import { explainCall } from '../src/index.js';
import { matchLike } from '../src/matching/comparing/like.js';
import { caseFor, decide, explain, load, makeRequest, mistakes, serviceOf } from './support.js';

test('like costs at most text times pattern, whatever is sent', () => {
  expect(matchLike('a'.repeat(20_000), `${'*a'.repeat(50)}b`)).toBe(false);
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

describe('groups of conditions', () => {
  const service = load(
    `${serviceOf(
      'GET /tides/{port}',
      `- case: odd
  when:
    any:
      - { query day: "2026-03-02", header x-office: north }
      - "state watch": night
        none: [{ path port: skerry }]
  answer: {}`,
    )}state: { watch: day }\n`,
  );

  test('are explained line by line, what stands in them one further in', () => {
    const decision = decide(service, 'GET /tides/skerry?day=2026-03-02');
    const why = explainCall(service, makeRequest('GET /tides/skerry?day=2026-03-02'), decision.found);
    const lines = why.ladder[0]?.cases[0]?.conditions.map(
      ({ place, wanted, found, held, depth = 0 }) =>
        `${'  '.repeat(depth)}${held ? '+' : '-'} ${place} ${wanted} / ${found}`,
    );
    expect(lines).toEqual([
      '- any one of 2 to hold / 0 of 2 hold',
      '  + 1: query day "2026-03-02" / "2026-03-02"',
      '  - 1: header x-office "north" / absent',
      '  - 2: state watch "night" / "day"',
      '  - 2: none none to hold / 1 of 1 holds',
      '    + 1: path port "skerry" / "skerry"',
    ]);
  });

  test.each([
    ['any: []', '9:16 at least one map of conditions is expected'],
    ['any: { query a: 1 }', /a list of maps is expected/],
    ['any: [{ qery a: 1 }]', /9:\d+ `qery` is no place; did you mean `query`\?/],
    ['query a: { fits: { type: nothing } }', /9:\d+ .*no JSON Schema/],
    ['query a: { not: { regex: "(a" } }', /no regular expression that runs in linear time/],
    ['query a: { not: { present: true } }', /is asked outside: `present: false`/],
    ['query a: { starts: 1 }', /`starts` is a text/],
    ['query a: { caseless: true }', /a comparison needs at least one test/],
    ['query a: { size: { abov: 1 } }', /did you mean `above`\?/],
    ['client name: x', /`client` is followed by address or certificate/],
  ])('and mistakes in them are told where they stand: %s', (line, expected) => {
    const [mistake] = mistakes(serviceOf('GET /a', `- case: c\n  when:\n    ${line}\n  answer: {}`));
    if (typeof expected === 'string') expect(mistake).toBe(expected);
    else expect(mistake).toMatch(expected);
  });
});
