import { describe, expect, test } from 'vitest';
import {
  type CheckedCall,
  compileChecks,
  evaluateCheck,
  findOperation,
  NO_SECRETS,
  renderJunit,
} from '../src/index.js';
import { load, makeRequest, type Sent } from './support.js';

const service = load(
  'upsetter: 1\nservice: lamp\noperations:\n  light: { on: "POST /lamps/{id}", cases: [] }\n  read: { on: "GET /lamps/{id}", cases: [] }\n',
);

function call(line: string, sent: Sent = {}, isStray = false): CheckedCall {
  const request = makeRequest(line, sent);
  const destination = findOperation(service, request);
  const operation = destination.kind === 'operation' ? destination.operation.name : null;
  return { id: request.id, service: 'lamp', operation, isStray, request, secrets: NO_SECRETS };
}

function compileOne(check: string) {
  const compiled = compileChecks(`checks:\n  - check: it\n    ${check.replaceAll('\n', '\n    ')}\n`, [service], {
    lane: 'main',
    withinMs: 0,
  });
  if (compiled.kind === 'refused')
    throw new Error(
      compiled.problems.map((problem) => `${problem.line}:${problem.column} ${problem.message}`).join('\n'),
    );
  return compiled.checks[0] as NonNullable<(typeof compiled.checks)[0]>;
}

const verdict = (check: string, ...calls: CheckedCall[]) => evaluateCheck(compileOne(check), calls);
const light = call('POST /lamps/7', { json: { colour: 'red' } });
const read = call('GET /lamps/7');

describe('times', () => {
  test.each<[string, CheckedCall[], boolean, boolean]>([
    ['times: 1', [light], true, false],
    ['times: 1', [], false, false],
    ['times: 1', [light, light], false, true],
    ['times: 0', [read], true, false],
    ['times: 0', [light], false, true],
    ['times: { least: 1 }', [light, light], true, true],
    ['times: { least: 2 }', [light], false, false],
    ['times: { most: 1 }', [], true, false],
    ['times: { most: 1 }', [light, light], false, true],
    ['times: { least: 1, most: 2 }', [light, light], true, false],
  ])('%s of %o: holds %s, final %s', (times, calls, holds, isFinal) => {
    expect(verdict(`of: lamp/light\n${times}`, ...calls)).toMatchObject({ holds, isFinal });
  });

  test('where counts only the calls whose conditions hold, path parameters included', () => {
    expect(
      verdict(
        'of: lamp/light\nwhere: { path id: "7", json $.colour: red }\ntimes: 1',
        light,
        call('POST /lamps/8', { json: { colour: 'red' } }),
      ),
    ).toMatchObject({ holds: true });
  });

  test('a failed check shows the nearest calls and what differed', () => {
    const { near, wanted, found } = verdict(
      'of: lamp/light\nwhere: { json $.colour: green, path id: "7" }\ntimes: 1',
      call('POST /lamps/8', {}),
      light,
    );
    expect([wanted, found]).toEqual([
      'exactly 1 call of lamp/light where json $.colour "green" and path id "7"',
      '0 calls',
    ]);
    expect(near.map((item) => item.differs.map((condition) => `${condition.place} ${condition.found}`))).toEqual([
      ['json $.colour "red"'],
      ['json $.colour absent', 'path id "8"'],
    ]);
  });
});

describe('order', () => {
  const order = 'order: [lamp/read, lamp/light]';
  test('holds when the calls came in this order, others in between allowed', () => {
    expect(verdict(order, light, read, read, light)).toMatchObject({ holds: true, isFinal: true });
  });
  test('fails when the second never followed', () => {
    expect(verdict(order, light, read)).toMatchObject({
      holds: false,
      found: 'lamp/light was not called after lamp/read',
    });
  });
  test('strict forbids others in between', () => {
    expect(verdict(`${order}\nstrict: true`, read, call('GET /nothing', {}, true), light).holds).toBe(false);
    expect(verdict(`${order}\nstrict: true`, light, read, light).holds).toBe(true);
  });
});

test('strays counts the calls that no case answered', () => {
  const stray = call('GET /nothing', {}, true);
  expect(verdict('strays: 0', light).holds).toBe(true);
  expect(verdict('strays: 0', light, stray)).toMatchObject({
    holds: false,
    isFinal: true,
    near: [{ call: 'GET /nothing', operation: null, stray: true }],
    more: 0,
  });
});

test('of many calls the last five are shown, and how many there are beside them', () => {
  const strays = Array.from({ length: 7 }, (_, i) => call(`GET /nothing/${i}`, {}, true));
  const { near, more } = verdict('strays: 0', ...strays);
  expect([near.map((shown) => shown.call), more]).toEqual([[2, 3, 4, 5, 6].map((i) => `GET /nothing/${i}`), 2]);
});

describe('a checks file with mistakes is refused with line and column', () => {
  test.each([
    ['of: lamp/lihgt\ntimes: 1', '3:9 lamp has no operation `lihgt`; did you mean `light`?'],
    ['of: lmp/light\ntimes: 1', '3:9 no service `lmp`; did you mean `lamp`?'],
    ['of: lamp/light', '2:5 a check has one of `times`, `order` and `strays`'],
    ['of: lamp/light\ntmies: 1', '4:5 a check has no key `tmies`; did you mean `times`?'],
    ['of: lamp/light\ngaps: { least: 1s }', '4:5 `gaps` is not supported yet'],
    ['times: 1', '2:5 `times` needs `of`: which calls are counted'],
    ['of: lamp/light\ntimes: -1', '4:12 a count is a whole number from 0'],
    ['of: lamp/light\nwhere: { path di: 1 }\ntimes: 1', '4:14 the path has no parameter `di`; did you mean `id`?'],
    ['order: [lamp/light]', '3:12 `order` needs two operations or more'],
  ])('%j', (check, expected) => {
    expect(() => compileOne(check)).toThrow(expected);
  });
});

test('JUnit XML escapes what it is given', () => {
  const xml = renderJunit('a "suite"', [
    { check: 'holds', holds: true, wanted: '', found: '', near: [], more: 0, tookMs: 4 },
    { check: '<fails>', holds: false, wanted: '1 & only', found: 'bell \u0007', near: [], more: 0, tookMs: 1000 },
  ]);
  expect(xml).toContain('<testsuite name="a &quot;suite&quot;" tests="2" failures="1" errors="0" time="1.004">');
  expect(xml).toContain(
    '<testcase name="&lt;fails&gt;" classname="a &quot;suite&quot;" time="1.000"><failure message="wanted 1 &amp; only; found bell \ufffd">',
  );
});
