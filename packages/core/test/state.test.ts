import { describe, expect, test } from 'vitest';
import { Lanes } from '../src/index.js';
import { answerJson, decide, load, makeRequest, mistakes } from './support.js';

const HARBOUR = load(`
upsetter: 1
service: pilots
state:
  pilot: none
  held: { N1: Sula }
operations:
  readBerth:
    on: GET /berths/{berthId}
    cases:
      - case: held
        when: { "state held[\${call.path.berthId}]": { present: true } }
        answer: { json: { by: "\${state.held[call.path.berthId]}", all: "\${size(state.held)}" } }
      - case: free
        answer: { json: { by: null } }
  holdBerth:
    on: POST /berths/{berthId}/hold
    cases:
      - case: by the pilot
        when: { json $.by: "\${state.pilot}" }
        let: { who: "\${call.json.by}", word: "held by \${let.who}" }
        answer: { json: { word: "\${let.word}", before: "\${state.held[call.path.berthId]}" } }
        then: [{ set: { "held[\${call.path.berthId}]": "\${let.who}" } }]
      - case: by another
        answer: { status: 409 }
  releaseBerth:
    on: DELETE /berths/{berthId}
    cases:
      - case: released
        answer: { none: true }
        then: [{ set: { "held[\${call.path.berthId}]": null } }]
  appoint:
    on: PUT /pilot
    cases:
      - case: appointed
        answer: { status: "\${call.json.status}", json: { name: "\${call.json.name}" } }
        then:
          - set: { pilot: "\${answer.json.name}" }
          - set: { "held[\${state.pilot}]": "\${number(call.json.count)}" }
`);

describe('state', () => {
  const send = (lanes: Lanes) => (line: string, json?: unknown) => answerJson(HARBOUR, line, { json }, lanes);

  test('starts as declared, is set by a call and seen by the next one', () => {
    const lanes = new Lanes('s');
    const ask = send(lanes);
    expect(ask('GET /berths/N1')).toEqual({ by: 'Sula', all: 1 });
    expect(ask('GET /berths/N2')).toEqual({ by: null });
    expect(ask('POST /berths/N2/hold', { by: 'none' })).toEqual({ word: 'held by none', before: null });
    expect(ask('GET /berths/N2')).toEqual({ by: 'none', all: 2 });
  });

  test('is cleared by null, key by key', () => {
    const lanes = new Lanes('s');
    decide(HARBOUR, 'DELETE /berths/N1', {}, lanes);
    expect(send(lanes)('GET /berths/N1')).toEqual({ by: null });
  });

  test('is private to a lane, and the starting values stay', () => {
    const lanes = new Lanes('s');
    decide(HARBOUR, 'DELETE /berths/N1', { lane: 'a' }, lanes);
    expect(answerJson(HARBOUR, 'GET /berths/N1', { lane: 'a' }, lanes)).toEqual({ by: null });
    expect(answerJson(HARBOUR, 'GET /berths/N1', { lane: 'b' }, lanes)).toEqual({ by: 'Sula', all: 1 });
  });

  test('is compared with what a call sends', () => {
    const lanes = new Lanes('s');
    expect(decide(HARBOUR, 'POST /berths/N3/hold', { json: { by: 'Ida' } }, lanes)).toMatchObject({
      caseName: 'by another',
    });
  });

  test('steps of `then` see everything as it was before the call, and none is made when one fails', () => {
    const lanes = new Lanes('s');
    const send = (json: unknown) => decide(HARBOUR, 'PUT /pilot', { json }, lanes);
    expect(send({ status: 200, name: 'Ida', count: 'many' })).toMatchObject({ kind: 'failed' });
    expect(lanes.get('main').data.readState('pilot', HARBOUR.start)).toBe('none');
    expect(send({ status: 200, name: 'Ida', count: '3' })).toMatchObject({ kind: 'answered' });
    expect(lanes.get('main').data.readKeyed('held', 'none', HARBOUR.start)).toBe(3);
  });

  test('what its conditions found is kept with the call', () => {
    const lanes = new Lanes('s');
    const { found } = decide(HARBOUR, 'GET /berths/N1', {}, lanes);
    decide(HARBOUR, 'DELETE /berths/N1', {}, lanes);
    expect(JSON.parse(JSON.stringify(found))).toEqual([
      { caseName: 'held', place: 'state held[${call.path.berthId}]', held: true, text: '"Sula"' },
    ]);
  });

  test('a name that is not declared is a mistake, with the nearest one', () => {
    const file = (when: string, set: string) => `
upsetter: 1
service: a
state: { pilot: none }
operations:
  a: { on: GET /a, cases: [{ case: a, when: { ${when}: 1 }, answer: { text: "\${state.pilt}" }, then: [{ set: { ${set}: 1 } }] }] }
`;
    expect(mistakes(file('state pilt', 'piloot')).map((line) => line.replace(/^\S+ /, ''))).toEqual([
      'the state `pilt` is not declared; did you mean `pilot`?',
      'the state `pilt` is not declared; did you mean `pilot`?',
      'the state `piloot` is not declared; did you mean `pilot`?',
    ]);
  });
});

const DATASET = load(`
upsetter: 1
service: register
datasets:
  vessels:
    key: imo
    rows:
      - { imo: 101, name: Petrel, flag: N }
      - { imo: 102, name: Sula, flag: S }
operations:
  listVessels:
    on: GET /vessels
    cases:
      - case: of a flag
        when: { query flag: { present: true } }
        answer: { json: "\${data.vessels.filter(v, v.flag == call.query.flag).map(v, v.name)}" }
      - case: all
        answer: { json: { total: "\${size(data.vessels)}", names: "\${reverse(sort(data.vessels, 'name')).map(v, v.name)}" } }
  readVessel:
    on: GET /vessels/{imo}
    row: { of: vessels, where: { imo: "\${call.path.imo}" } }
    cases:
      - case: struck off
        when: { row: { present: false } }
        answer: { status: 404, json: { error: "no \${call.path.imo}" } }
      - case: northern
        when: { row flag: N }
        answer: { json: "\${merge(row, {'north': true, 'flag': null})}" }
      - case: found
        answer: { json: "\${row}" }
  enterVessel:
    on: POST /vessels
    cases:
      - case: entered
        let: { vessel: { imo: "\${next('imo', 103)}", name: "\${call.json.name}", note: "\${call.json.?note.orValue(omit)}" } }
        answer: { status: 201, json: "\${let.vessel}" }
        then: [{ insert: { into: vessels, row: "\${let.vessel}" } }]
  renameVessel:
    on: PATCH /vessels/{imo}
    cases:
      - case: renamed
        answer: { none: true }
        then: [{ change: { of: vessels, where: { imo: "\${call.path.imo}" }, to: "\${call.json}" } }]
  replaceVessel:
    on: PUT /vessels/{imo}
    cases:
      - case: replaced
        answer: { none: true }
        then: [{ replace: { of: vessels, where: { imo: "\${call.path.imo}" }, row: "\${merge(call.json, {'imo': number(call.path.imo)})}" } }]
  strikeFlag:
    on: DELETE /flags/{flag}
    cases:
      - case: struck
        answer: { none: true }
        then: [{ remove: { of: vessels, where: { flag: "\${call.path.flag}" } } }]
`);

describe('a dataset', () => {
  const send = (lanes: Lanes) => (line: string, json?: unknown) => answerJson(DATASET, line, { json }, lanes);

  test('is read as a list: filtered, sorted, counted', () => {
    const ask = send(new Lanes('s'));
    expect(ask('GET /vessels?flag=S')).toEqual(['Sula']);
    expect(ask('GET /vessels')).toEqual({ total: 2, names: ['Sula', 'Petrel'] });
  });

  test('gives the row a call speaks of, also when a number is told as text', () => {
    const ask = send(new Lanes('s'));
    expect(ask('GET /vessels/102')).toEqual({ imo: 102, name: 'Sula', flag: 'S' });
    expect(ask('GET /vessels/101')).toEqual({ imo: 101, name: 'Petrel', north: true });
    expect(ask('GET /vessels/7')).toEqual({ error: 'no 7' });
  });

  test('grows, changes and shrinks with the calls of a lane', () => {
    const lanes = new Lanes('s');
    const ask = send(lanes);
    expect(ask('POST /vessels', { name: 'Anna Grey' })).toEqual({ imo: 103, name: 'Anna Grey' });
    expect(ask('POST /vessels', { name: 'Skua', note: 'new' })).toEqual({ imo: 104, name: 'Skua', note: 'new' });
    decide(DATASET, 'PATCH /vessels/103', { json: { flag: 'S' } }, lanes);
    expect(ask('GET /vessels/103')).toEqual({ imo: 103, name: 'Anna Grey', flag: 'S' });
    decide(DATASET, 'PUT /vessels/104', { json: { name: 'Great Skua' } }, lanes);
    expect(ask('GET /vessels/104')).toEqual({ imo: 104, name: 'Great Skua' });
    decide(DATASET, 'DELETE /flags/S', {}, lanes);
    expect(ask('GET /vessels')).toEqual({ total: 2, names: ['Petrel', 'Great Skua'] });
    expect(send(new Lanes('s'))('GET /vessels')).toEqual({ total: 2, names: ['Sula', 'Petrel'] });
  });

  test('refuses rows without a key of their own, and names that are not there', () => {
    const rows = (list: string) => `
upsetter: 1
service: a
datasets: { vessels: { key: imo, rows: ${list} } }
operations: { a: { on: GET /a, row: { of: vesels, where: { imo: 1 } }, cases: [] } }
`;
    expect(mistakes(rows('[{ imo: 1 }, { name: x }, { imo: "1" }]'))).toEqual([
      '4:53 this row has no `imo`, the key of vessels',
      '4:66 a second row with `imo: 1`',
      '5:43 there is no dataset `vesels`; did you mean `vessels`?',
    ]);
  });
});

describe('turns', () => {
  const service = (turns: string) =>
    load(`
upsetter: 1
service: a
operations:
  poll: { on: GET /poll, cases: [{ case: a, answer: { turns: ${turns} } }] }
`);
  const play = (turns: string, count: number): string => {
    const compiled = service(turns);
    const lanes = new Lanes('s');
    return Array.from({ length: count }, () => answerJson(compiled, 'GET /poll', {}, lanes)).join('');
  };

  test.each([
    ['in order, staying on the last', '{ list: [{ json: 1, times: 2 }, { json: 2 }] }', '11222'],
    ['around', '{ order: around, list: [{ json: 1 }, { json: 2, times: 2 }] }', '122122'],
  ])('go %s', (_rule, turns, expected) => expect(play(turns, expected.length)).toBe(expected));

  test('at random go by weight, the same every time', () => {
    const turns = '{ order: random, list: [{ json: 1, weight: 3 }, { json: 2 }] }';
    const drawn = play(turns, 400);
    expect(drawn).toBe(play(turns, 400));
    expect(drawn.replaceAll('2', '').length).toBeGreaterThan(250);
    expect(drawn.replaceAll('2', '').length).toBeLessThan(350);
  });
});

describe('forms and cookies', () => {
  const service = load(`
upsetter: 1
service: a
operations:
  login:
    on: POST /login
    cases:
      - case: known
        when: { form user: ida, cookie seen: "1" }
        answer: { json: { user: "\${call.form.user}", seen: "\${call.cookies.seen}" } }
`);
  test('are places and are read by expressions', () => {
    const headers = { 'content-type': 'application/x-www-form-urlencoded', cookie: 'seen=1; x=2' };
    expect(answerJson(service, 'POST /login', { headers, body: 'user=ida&pass=1' })).toEqual({
      user: 'ida',
      seen: '1',
    });
    const request = makeRequest('POST /login', { headers: {}, body: 'user=ida' });
    expect(request.form()).toEqual({});
  });
});

describe('pattern()', () => {
  const service = load(`
upsetter: 1
service: a
operations:
  draw: { on: GET /draw, cases: [{ case: a, answer: { json: "\${pattern('[A-F]{2}-\\\\\\\\d{4}x?')}" } }] }
`);
  test('draws a text of the shape, another for each call and the same in each life', () => {
    const lanes = new Lanes('s');
    const drawn = Array.from({ length: 20 }, () => String(answerJson(service, 'GET /draw', {}, lanes)));
    for (const text of drawn) expect(text).toMatch(/^[A-F]{2}-\d{4}x?$/);
    expect(new Set(drawn).size).toBe(20);
    expect(answerJson(service, 'GET /draw', {}, new Lanes('s'))).toBe(drawn[0]);
  });
});

describe('`log` under `then`', () => {
  const service = load(`
upsetter: 1
service: pilots
operations:
  ask:
    on: POST /ask
    cases:
      - case: asked
        answer: { status: 202, json: { no: 7 } }
        then:
          - log: "pilot \${call.json.pilot} asked, no \${answer.json.no}"
          - log: plain
`);

  test('leaves lines on the call, in order, of the call and its answer', () => {
    expect(decide(service, 'POST /ask', { json: { pilot: 'Ida' } })).toMatchObject({
      kind: 'answered',
      notes: ['pilot Ida asked, no 7', 'plain'],
    });
  });
});
