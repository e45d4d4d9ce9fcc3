import { describe, expect, test } from 'vitest';
import { type CompiledService, headerOf } from '../src/index.js';
import { decide, load, mistakes } from './support.js';

const LAMPS = load(`
upsetter: 1
service: lamps
operations:
  readLamp:
    on: GET /lamps/{id}
    cases:
      - case: found
        when: { path id: { like: "L*" } }
        answer: { headers: { cache-control: no-cache }, json: { id: "\${call.path.id}" }, serve: [etag] }
      - case: none
        answer: { status: 404, json: { id: null }, serve: [etag] }
  makeLamp:
    on: POST /lamps
    cases:
      - case: made
        answer: { status: 201, json: { id: L1 }, serve: [etag] }
  tell:
    on: GET /tag
    cases:
      - case: told
        answer: { json: "\${etag({'id': 'L1'})}" }
`);

function ask(service: CompiledService, line: string, known?: string) {
  const decision = decide(service, line, known === undefined ? {} : { headers: { 'if-none-match': known } });
  if (decision.kind !== 'answered') throw new Error('not answered');
  const { status, headers, body } = decision.answer;
  return { status, body, headers, etag: headerOf(headers, 'etag') };
}

describe('an answer with `serve: [etag]` (RFC 9110, 8.8.3 and 13)', () => {
  const { etag } = ask(LAMPS, 'GET /lamps/L1');

  test('has a strong tag: the same for the same body, another for another', () => {
    expect(etag).toMatch(/^"[0-9a-f]{16}"$/);
    expect(ask(LAMPS, 'GET /lamps/L1').etag).toBe(etag);
    expect(ask(LAMPS, 'GET /lamps/L2').etag).not.toBe(etag);
    expect(ask(LAMPS, 'POST /lamps').etag).toBe(etag);
    expect(ask(LAMPS, 'GET /tag').body).toBe(JSON.stringify(etag));
  });

  test.each([
    ['the tag', `${etag}`, 304],
    ['the tag, weakly', `W/${etag}`, 304],
    ['a list with the tag', `"a", ${etag}`, 304],
    ['any tag', '*', 304],
    ['another tag', '"a"', 200],
    ['the tag without its quotes', `${etag}`.slice(1, -1), 200],
  ])('is not sent again to who has %s', (_, known, status) => {
    const answer = ask(LAMPS, 'GET /lamps/L1', known);
    expect(answer.status).toBe(status);
    expect(answer.etag).toBe(etag);
    expect(answer.body === null).toBe(status === 304);
  });

  test('keeps what caches need in a 304, and no type of a body that is not there', () => {
    const { headers } = ask(LAMPS, 'GET /lamps/L1', `${etag}`);
    expect(headers).toEqual(['cache-control', 'no-cache', 'etag', etag]);
  });

  test('is sent whatever the caller has when it refuses, or answers something else than a read', () => {
    expect(ask(LAMPS, 'GET /lamps/9', '*')).toMatchObject({ status: 404, etag: null });
    expect(ask(LAMPS, 'POST /lamps', '*')).toMatchObject({ status: 201 });
  });

  test('knows three words, and makes the header that it would be set by', () => {
    const file = (answer: string) =>
      `upsetter: 1\nservice: a\noperations: { readA: { on: GET /a, cases: [{ case: a, answer: ${answer} }] } }`;
    expect(mistakes(file('{ json: 1, serve: [ranges] }'))).toEqual([
      expect.stringContaining('`serve` is a list of etag, range and gzip'),
    ]);
    expect(mistakes(file('{ json: 1, serve: [etag], headers: { ETag: x } }'))).toEqual([
      expect.stringContaining('`serve: [etag]` makes the entity tag'),
    ]);
  });
});
