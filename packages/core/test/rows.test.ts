import { describe, expect, test } from 'vitest';
import { Lanes } from '../src/index.js';
import { answerJson, decide, load, mistakes } from './support.js';

const VISITS = load(`
upsetter: 1
service: roadstead
datasets:
  visits:
    key: [port, no]
    rows:
      - { port: SKY, no: 1, ship: Petrel }
      - { port: HOL, no: 1, ship: Sula }
operations:
  readVisit:
    on: GET /ports/{port}/visits/{no}
    row: { of: visits, where: { port: "\${call.path.port}", no: "\${call.path.no}" } }
    cases:
      - case: found
        answer: { json: "\${without(row, 'port')}" }
  listVisits:
    on: GET /visits
    cases:
      - case: listed
        answer: { json: { all: "\${data.visits.map(item, item.ship)}", last: "\${max(data.visits.map(item, item.no))}", none: "\${max([])}" } }
  renumber:
    on: PUT /ports/{port}/visits/{no}
    cases:
      - case: done
        answer: { none: true }
        then:
          - replace:
              of: visits
              where: { port: "\${call.path.port}", no: "\${call.path.no}" }
              row: { port: "\${call.path.port}", no: "\${call.json.no}", ship: "\${call.json.ship}" }
  addVisits:
    on: POST /ports/{port}/visits
    cases:
      - case: done
        let: { visits: "\${call.json.map(item, {'port': call.path.port, 'no': next('of ' + call.path.port, 2), 'ship': item})}" }
        answer: { json: "\${let.visits}" }
        then: [{ insert: { into: visits, rows: "\${let.visits}" } }]
`);

describe('rows whose key is several fields', () => {
  test('are told apart by all of them, and changed without touching the others', () => {
    const lanes = new Lanes('s');
    expect(answerJson(VISITS, 'GET /ports/HOL/visits/1', {}, lanes)).toEqual({ no: 1, ship: 'Sula' });
    decide(VISITS, 'PUT /ports/HOL/visits/1', { json: { no: 1, ship: 'Tern' } }, lanes);
    expect(answerJson(VISITS, 'GET /ports/HOL/visits/1', {}, lanes)).toEqual({ no: 1, ship: 'Tern' });
    expect(answerJson(VISITS, 'GET /ports/SKY/visits/1', {}, lanes)).toEqual({ no: 1, ship: 'Petrel' });
  });

  test('go to another key without leaving one behind', () => {
    const lanes = new Lanes('s');
    decide(VISITS, 'PUT /ports/SKY/visits/1', { json: { no: 7, ship: 'Petrel' } }, lanes);
    expect(answerJson(VISITS, 'GET /visits', {}, lanes)).toEqual({ all: ['Sula', 'Petrel'], last: 7, none: null });
  });

  test('are refused in a file when a field of the key is missing, or all are those of another row', () => {
    const file = (rows: string) => `
upsetter: 1
service: a
datasets: { visits: { key: [port, no], rows: ${rows} } }
operations: { readA: { on: GET /a, cases: [{ case: a, answer: { none: true } }] } }`;
    expect(mistakes(file('[{ port: SKY }]'))).toEqual([
      expect.stringContaining('this row has no `no`, the key of visits'),
    ]);
    expect(mistakes(file('[{ port: SKY, no: 1 }, { port: SKY, no: "1" }]'))).toEqual([
      expect.stringContaining('a second row with `port: SKY, no: 1`'),
    ]);
  });
});

describe('several rows inserted at once', () => {
  test('are all there for the next call', () => {
    const lanes = new Lanes('s');
    const made = answerJson(VISITS, 'POST /ports/SKY/visits', { json: ['Gannet', 'Skua'] }, lanes);
    expect(made).toEqual([
      { port: 'SKY', no: 2, ship: 'Gannet' },
      { port: 'SKY', no: 3, ship: 'Skua' },
    ]);
    expect(answerJson(VISITS, 'GET /ports/SKY/visits/3', {}, lanes)).toEqual({ no: 3, ship: 'Skua' });
  });

  test('are a list: anything else is told, and so is `insert` with both or neither', () => {
    const file = (insert: string) => `
upsetter: 1
service: a
datasets: { visits: { key: no } }
operations: { addA: { on: POST /a, cases: [{ case: a, answer: { none: true }, then: [{ insert: ${insert} }] }] } }`;
    expect(mistakes(file('{ into: visits }'))).toEqual([
      expect.stringContaining('`insert` has either `row` or `rows`'),
    ]);
    expect(mistakes(file('{ into: visits, row: { no: 1 }, rows: [] }'))).toEqual([expect.stringContaining('either')]);
    expect(mistakes(file('{ into: visits, rows: 3 }'))).toEqual([expect.stringContaining('`rows` is a list of maps')]);
  });
});
