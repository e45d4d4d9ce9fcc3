import { describe, expect, test } from 'vitest';
import { findOverlaps, findUnreachable } from '../src/index.js';
import { load, serviceOf } from './support.js';

/** What is said of the second of two cases. */
function second(first: string, later: string, on = '"* /berths/{id}"'): string | null {
  const when = (text: string) => (text === '' ? '' : `\n  when: ${text}`);
  const file = `${serviceOf(on, `- case: first${when(first)}\n  answer: {}\n- case: second${when(later)}\n  answer: {}`)}state: { watch: day }\n`;
  const told = findUnreachable(load(file)).find((item) => item.case === 'second');
  return told === undefined ? null : told.by === null ? told.message : `by ${told.by}`;
}

describe('a case is never reached', () => {
  test.each([
    ['', '{ path id: N7 }', 'what takes whatever comes stands before it'],
    ['{ path id: N7 }', '{ path id: N7 }', 'the same again'],
    ['{ path id: N7 }', '{ path id: N7, query day: x }', 'the same, and more'],
    ['{ path id: { like: "N*" } }', '{ path id: N7 }', 'a value that is like it'],
    ['{ path id: { regex: "^[NS]" } }', '{ path id: { in: [N7, S1] } }', 'values that fit an expression'],
    ['{ path id: { in: [N7, S1] } }', '{ path id: S1 }', 'one of a list'],
    ['{ path id: { starts: N } }', '{ path id: { starts: N7 } }', 'a longer beginning'],
    ['{ path id: { like: "N*" } }', '{ path id: { like: "N7*" } }', 'a pattern that says more'],
    ['{ path id: { has: 7 } }', '{ path id: { has: N7 } }', null],
    ['{ path id: { has: "7" } }', '{ path id: { like: "*N7" } }', 'what is within a pattern'],
    ['{ query n: { above: 1 } }', '{ query n: { from: 2, to: 5 } }', 'a smaller range'],
    ['{ query n: { above: 1 } }', '{ query n: 2 }', 'a number within a range'],
    ['{ query n: { from: 2 } }', '{ query n: { above: 2 } }', 'the same range without its limit'],
    ['{ query day: { from: "2026-03-01" } }', '{ query day: { above: "2026-03-02T00:00:00Z" } }', 'later dates'],
    ['{ query day: { present: true } }', '{ query day: x }', 'something where anything will do'],
    ['{ query day: { isnt: y } }', '{ query day: { present: false } }', 'nothing there is not y'],
    ['{ path id: { isnt: N8 } }', '{ path id: N7 }', 'another than what is forbidden'],
    ['{ path id: { present: true } }', '{ query a: x }', 'what is always there'],
    ['{ json $.n: { above: 4 } }', '{ json $.n: 5 }', 'a JSON number within a range'],
    ['{ json $.v: { has: { id: 1 } } }', '{ json $.v: { is: { id: 1, b: 2 } } }', 'a map with all members'],
    ['{ json $.v: { fits: { type: string } } }', '{ json $.v: x }', 'a value that is valid'],
    ['{ any: [{ query a: 1 }] }', '{ any: [{ query a: 1 }], query b: 2 }', 'the same group'],
    ['{ expr: "call.query.a == null" }', '{ expr: "call.query.a == null", query b: 2 }', 'the same expression'],
    ['{ state watch: day }', '{ state watch: day, query b: 2 }', 'the same state'],
  ])('%s before %s', (first, later, why) => {
    expect(second(first, later)).toBe(why === null ? null : 'by first');
  });

  test.each([
    ['{ query n: { above: 5, below: 5 } }', 'never holds: query n above 5, below 5 leaves nothing'],
    ['{ path id: { is: N7, like: "S*" } }', 'never holds: path id "N7", like S* contradicts itself'],
  ])('%s contradicts itself', (later, message) => expect(second('{ query zz: 1 }', later)).toBe(message));

  test('a method that the operation is not called with', () => {
    expect(second('{ query zz: 1 }', '{ method: POST }', 'GET /berths/{id}')).toBe(
      'never holds: the operation is called with GET or HEAD',
    );
    expect(second('{ query zz: 1 }', '{ method: HEAD }', 'GET /berths/{id}')).toBeNull();
  });
});

describe('a case may be reached', () => {
  test.each([
    ['{ path id: N7 }', '{ path id: N8 }'],
    ['{ path id: N7 }', '{ path id: { like: "N*" } }'],
    ['{ path id: N7, query a: 1 }', '{ path id: N7 }'],
    ['{ query n: { above: 1 } }', '{ query n: { from: 1 } }'],
    ['{ query n: "5" }', '{ query n: 5 }'],
    ['{ query n: { isnt: a } }', '{ query n: b }'],
    ['{ query n: { every: { above: 1 } } }', '{ query n: 2 }'],
    ['{ path id: { like: "N?*" } }', '{ path id: { starts: N } }'],
    ['{ path id: { is: n7, caseless: true } }', '{ path id: { like: "N*" } }'],
    ['{ query day: { present: true } }', '{ query day: { isnt: y } }'],
    ['{ query day: { present: false } }', '{ query day: { isnt: y } }'],
    ['{ state watch: day }', '{ state watch: night }'],
    ['{ json $.n: 5 }', '{ json $.n: "5" }'],
    ['{ any: [{ query a: 1 }] }', '{ query a: 1 }'],
    ['{ path id: "${call.query.a}" }', '{ path id: N7 }'],
  ])('%s before %s', (first, later) => expect(second(first, later)).toBeNull());
});

test('paths that two operations take are told with an example, and who gets it', () => {
  const operations = {
    free: { on: 'GET /berths/{id}/free', cases: [] },
    all: { on: 'GET /berths/all/{what}', cases: [] },
    plain: { on: 'GET /berths/{id}', cases: [] },
    one: { on: 'GET /berths/one', cases: [] },
    other: { on: 'POST /berths/all/{what}', cases: [] },
  };
  expect(findOverlaps(load(JSON.stringify({ upsetter: 1, service: 'a', operations })))).toEqual([
    { operations: ['free', 'all'], example: '/berths/all/free', winner: 'all' },
  ]);
});

test('thousands of cases are looked at in a moment', () => {
  const cases = Array.from({ length: 1_200 }, (_, i) => ({ case: `c${i}`, when: { 'path id': `N${i}` }, answer: {} }));
  const service = load(JSON.stringify({ upsetter: 1, service: 'a', operations: { a: { on: 'GET /a/{id}', cases } } }));
  expect(findUnreachable(service)).toEqual([]);
});
