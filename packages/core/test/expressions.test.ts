import { describe, expect, test } from 'vitest';
import { Lanes } from '../src/index.js';
import { answerJson, decide, evaluate, load, mistakes, serviceOf } from './support.js';

describe('the dialect', () => {
  test.each<[string, unknown]>([
    ['7 / 2', 3.5],
    ['1 + 2.5', 3.5],
    ['7 % 4', 3],
    ['-(2 * 3)', -6],
    ["'a' + 'b'", 'ab'],
    ['[1] + [2]', [1, 2]],
    ["1 == '1'", false],
    ["{'a': [1, 2]} == {'a': [1, 2]}", true],
    ['2 in [1, 2]', true],
    ["'a' in {'a': 1}", true],
    ["true ? 'yes' : 'no'", 'yes'],
    ['!(1 > 2) && 2 >= 2', true],
    ["'b' > 'a'", true],
    ['[3, 4].map(n, n * 2)', [6, 8]],
    ['[3, 4].filter(n, n > 3)', [4]],
    ['[[1, 2], [3]].map(row, row.map(n, n + size(row)))', [[3, 4], [4]]],
    ['[1, 2].exists(n, n == 2) && [1, 2].all(n, n > 0)', true],
    ['[1, 2, 1].exists_one(n, n == 2)', true],
    ['size("søn")', 3],
    ["number('4.5') + 1", 5.5],
    ['string(4.5) + "m"', '4.5m'],
    ["'a,b'.split(',').join('-')", 'a-b'],
    ["'Skerry'.upper().startsWith('SK')", true],
    ["'skerry'.matches('^s.*y$')", true],
    ["'skerry'.replace('r', 'l').substring(0, 3)", 'ske'],
    ['range(3)', [0, 1, 2]],
    ['sum([1, 2.5])', 3.5],
    ['sum([])', 0],
    ["sum([{'n': 2, 'p': 3}, {'n': 1, 'p': 4}].map(item, item.n * item.p))", 10],
    ['round(2.5)', 3],
    ['round(0.1 + 0.2, 2)', 0.3],
    ['round(12, 2)', 12],
    ['call.json.missing.deeper', null],
    ["call.query.?port.orValue('skerry')", 'skerry'],
    ["call.query['nothing'] == null", true],
    ['has(call.json.a)', false],
    ['now', '2026-03-02T09:30:00.000Z'],
    ['service', 'lighthouse'],
    ['call.path.rest', 'x'],
  ])('%s is %j', (expression, expected) => {
    expect(evaluate(expression)).toEqual(expected);
  });

  test.each<[string, string]>([
    ["1 + 'a'", '+ cannot add a number and a text; string(x) or number(x) makes them alike'],
    ['1 / 0', 'division by zero'],
    ['1e308 * 10', 'the result is larger than any number'],
    ['-1e308 - 1e308', 'the result is larger than any number'],
    ['sum([1e308, 1e308])', 'the result is larger than any number'],
    ["number('deep')", 'number() cannot read "deep"'],
    ["1 < 'a'", '< compares two numbers or two texts, not a number and a text'],
    ['call.json.a + 1', '+ cannot add null and a number; string(x) or number(x) makes them alike'],
    ["'x' ? 1 : 2", '? needs true or false, not a text'],
  ])('%s fails on the call, saying why', (expression, reason) => {
    expect(evaluate(expression)).toBe(`failed: \${${expression}} failed: ${reason}`);
  });
});

describe('expressions see the call', () => {
  const sent = { headers: { 'x-harbour-key': 'k', accept: 'text/plain' }, json: { n: 5, list: [{ id: 'N7' }] } };
  test.each<[string, unknown]>([
    ['call.method', 'POST'],
    ['call.url', '/berths/N7?quay=North&tag=a&tag=b'],
    ['call.query.quay', 'North'],
    ['call.query.tag', ['a', 'b']],
    ["call.headers['X-Harbour-Key']", 'k'],
    ['call.headers.accept', 'text/plain'],
    ['call.json.n', 5],
    ['call.json.list[0].id', 'N7'],
    ['call.json', sent.json],
    ['call.lane', 'main'],
    ['call.at', '2026-03-02T09:30:00.000Z'],
  ])('%s', (expression, expected) => {
    expect(evaluate(expression, 'POST /berths/N7?quay=North&tag=a&tag=b', sent)).toEqual(expected);
  });
});

describe('a text that is one expression keeps its type; a longer one is a text', () => {
  const service = load(
    serviceOf(
      'POST /x',
      '- case: a\n  answer:\n    status: "${call.json.status}"\n    headers: { x-depth: "${call.json.n} m" }\n    json: { n: "${call.json.n}", text: "n is ${call.json.n}, list ${call.json.list}", literal: "$${n}" }',
    ),
  );
  const sent = { json: { n: 5, list: [1], status: 418 } };

  test('in JSON', () => {
    expect(answerJson(service, 'POST /x', sent)).toEqual({ n: 5, text: 'n is 5, list [1]', literal: '${n}' });
  });

  test('in status and headers', () => {
    expect(decide(service, 'POST /x', sent)).toMatchObject({
      answer: { status: 418, headers: ['content-type', 'application/json', 'x-depth', '5 m'] },
    });
  });

  test('a status that comes out wrong fails the call', () => {
    expect(decide(service, 'POST /x', { json: { status: 'gone' } })).toMatchObject({
      kind: 'failed',
      reason: expect.stringContaining('200 to 599'),
    });
  });

  test('a header value cannot be broken into two', () => {
    expect(decide(service, 'POST /x', { json: { status: 200, n: 'a\r\nset-cookie: b' } })).toMatchObject({
      kind: 'failed',
    });
  });
});

describe('same every time', () => {
  const service = load(
    serviceOf(
      'GET /x',
      '- case: a\n  answer: { json: { id: "${uuid()}", other: "${uuid()}", n: "${next(\'booking\')}", pick: "${pick([\'a\',\'b\',\'c\'])}", roll: "${between(1, 6)}", many: "${range(3).map(i, uuid())}" } }',
    ),
  );
  const ask = (lanes: Lanes, lane = 'main') =>
    answerJson(service, 'GET /x', { lane }, lanes) as {
      id: string;
      other: string;
      n: number;
      roll: number;
      many: string[];
    };

  test('two runs from the same seed draw the same', () => {
    const [one, two] = [new Lanes('s'), new Lanes('s')];
    expect([ask(one), ask(one)]).toEqual([ask(two), ask(two)]);
  });

  test('another seed, another lane, another call and another place draw otherwise', () => {
    const lanes = new Lanes('s');
    const first = ask(lanes);
    const all = [first, ask(lanes), ask(lanes, 'night'), ask(new Lanes('t'))].flatMap(({ id, other, many }) => [
      id,
      other,
      ...many,
    ]);
    expect(new Set(all).size).toBe(all.length);
    for (const id of all) expect(id).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  });

  test('calls of one lane do not change what another draws', () => {
    const [quiet, busy] = [new Lanes('s'), new Lanes('s')];
    for (let i = 0; i < 5; i++) ask(busy, 'noise');
    expect(ask(busy)).toEqual(ask(quiet));
  });

  test('counters go up by one, in each lane by themselves', () => {
    const lanes = new Lanes('s');
    expect([ask(lanes).n, ask(lanes).n, ask(lanes, 'night').n]).toEqual([1, 2, 1]);
  });

  test('between stays within its limits, both included', () => {
    const lanes = new Lanes('s');
    const rolls = new Set(Array.from({ length: 200 }, () => ask(lanes).roll));
    expect([...rolls].sort()).toEqual([1, 2, 3, 4, 5, 6]);
  });
});

describe('an expression is bounded', () => {
  test.each([
    ['nested loops', 'range(3000).map(i, range(3000).map(j, i * j))', 'more than 100000 steps'],
    ['a list that is too long', 'range(1000000000)', 'more than 100000 steps'],
    [
      'texts that double',
      "range(40).map(i, 'x').join('').replace('x', range(9000).map(i, 'yyyyyyyy').join(''))",
      'a text of more than 1000000 characters',
    ],
    ['a regular expression that would explode', "('a' + range(2000).map(i, 'a').join('')).matches('(a+)+b')", 'false'],
  ])('%s', (_what, expression, expected) => {
    expect(String(evaluate(expression))).toContain(expected);
  });

  test('one that is too deep is refused at save', () => {
    expect(
      mistakes(serviceOf('GET /x', `- case: a\n  answer: { text: "\${${'('.repeat(500)}1${')'.repeat(500)}}" }`))[0],
    ).toContain('cannot be read');
  });
});

describe('what functions cannot do is told when the file is saved', () => {
  const one = (expression: string) =>
    mistakes(serviceOf('GET /x', `- case: a\n  answer: { text: '\${${expression}}' }`))[0];
  test.each([
    ['fake("person.lastNme")', /did you mean `person.lastName`\?/],
    ['fake(call.path)', /a kind that is written out/],
    ['fake("helpers.fake")', /nothing of the kind `helpers.fake`/],
    ['jsonpath(call.json, "$.[")', /not a JSONPath/],
    ['jsonpath(call.json)', /a path that is written out/],
    ['hash()', /hash\(\) takes 1 to 2 arguments, here are 0/],
    ['hmacs("a", "b")', /did you mean `hmac`\?/],
  ])('%s', (expression, message) => expect(one(expression)).toMatch(message));
});

describe('what functions cannot do with what comes fails that call', () => {
  test.each([
    ['hash("x", "crc")', /there is no digest crc; there is md5, sha1/],
    ['hmac("k", "x", "sha256", "hexa")', /hex, base64 or base64url/],
    ['jwt("x", "k")', /needs a map of claims, not a text/],
    ['jwt({"a": 1}, "k", "RS256")', /signs by HS256, HS384, HS512, not RS256/],
    ['unbase64("*")', /needs base64/],
    ['format("soon", "yyyy")', /cannot read "soon" as an RFC 3339 date/],
    ['format(now, "HH", "Skerry/Sound")', /no time zone Skerry\/Sound/],
    ['date("2.3.", "dd.MM.yyyy")', /date cannot read "2.3."/],
    ['date(true)', /needs a number or a text, not true\/false/],
  ])('%s', (expression, message) => expect(evaluate(expression)).toMatch(message));
});
