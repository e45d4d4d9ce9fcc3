import { describe, expect, test } from 'vitest';
import { Lanes } from '../src/index.js';
import { decide, load, type Sent } from './support.js';

// Both are the same number as a double.
const LONG = '12345678901234567890';
const NEXT = '12345678901234567891';

const SERVICE = load(`
upsetter: 1
service: registry
state: { last: ${LONG}, seen: {} }
variables: { limit: ${LONG} }
datasets: { ships: { key: id, rows: [{ id: ${LONG}, name: Petrel }, { id: ${NEXT}, name: Sula }] } }
resources: { ships: { at: /ships } }
operations:
  echo:
    on: POST /echo
    cases:
      - case: known
        when: { json $.id: ${LONG} }
        answer: { json: { known: "\${call.json.id}", constant: ${NEXT}, sum: "\${call.json.id + 1}", text: "no \${call.json.id}" } }
        then: [{ set: { last: "\${call.json.id}", "seen[\${call.json.id}]": true } }]
      - case: above
        when: { expr: "call.json.id > vars.limit" }
        answer: { json: { above: "\${call.json.all}" } }
      - case: other
        answer: { json: { id: "\${call.json.id}", same: "\${call.json.id == ${LONG}}", half: "\${number(call.json.id) / 2 > 1}" } }
  last: { on: GET /last, cases: [{ case: told, answer: { json: { last: "\${state.last}", seen: "\${state.seen['${LONG}']}" } } }] }
`);

function ask(line: string, body?: string, lanes = new Lanes('seed')): string {
  const sent: Sent = body === undefined ? {} : { body };
  const decision = decide(SERVICE, line, sent, lanes);
  if (decision.kind !== 'answered') throw new Error(JSON.stringify(decision));
  const { body: answered } = decision.answer;
  return typeof answered === 'string' ? answered : new TextDecoder().decode(answered ?? undefined);
}

describe('a whole number beyond 2^53', () => {
  test('keeps its digits from the call to the answer, and where it is written in the file', () => {
    expect(ask('POST /echo', `{"id": ${LONG}}`)).toBe(
      `{"known":${LONG},"constant":${NEXT},"sum":${NEXT},"text":"no ${LONG}"}`,
    );
    expect(ask('POST /echo', `{"id": ${NEXT}, "all": [{"a": ${NEXT}}, 1.5, "${LONG}"]}`)).toBe(
      `{"above":[{"a":${NEXT}},1.5,"${LONG}"]}`,
    );
  });

  test('is another than its neighbour, and than its text', () => {
    expect(ask('POST /echo', '{"id": 12345678901234567889}')).toBe(
      '{"id":12345678901234567889,"same":false,"half":true}',
    );
    expect(ask('POST /echo', `{"id": -${LONG}}`)).toContain(`{"id":-${LONG},"same":false`);
    expect(() => ask('POST /echo', `{"id": "${LONG}"}`)).toThrow(/compares two numbers or two texts/);
  });

  test('is kept in state, and as the key of a row', () => {
    const lanes = new Lanes('seed');
    expect(ask('GET /last')).toBe(`{"last":${LONG},"seen":null}`);
    ask('POST /echo', `{"id": ${LONG}}`, lanes);
    expect(ask('GET /last', undefined, lanes)).toBe(`{"last":${LONG},"seen":true}`);
    expect(lanes.get('main').changed().state['last']).toBe(LONG);
    expect(ask(`GET /ships/${NEXT}`)).toBe(`{"id":${NEXT},"name":"Sula"}`);
    expect(ask(`GET /ships?id=${LONG}`)).toContain(`"items":[{"id":${LONG},"name":"Petrel"}]`);
    expect(ask('GET /ships?sort=-id&size=1')).toContain(`"items":[{"id":${NEXT}`);
    expect(ask('PATCH /ships/12345678901234567890', `{"twin": ${NEXT}}`, lanes)).toBe(
      `{"id":${LONG},"name":"Petrel","twin":${NEXT}}`,
    );
  });

  test('is a number like others where it is one that a double holds', () => {
    expect(ask('POST /echo', '{"id": 9007199254740991}')).toContain('"id":9007199254740991');
    expect(ask('POST /echo', '{"id": 1e30}')).toContain('"above"');
    expect(ask('POST /echo', '{"id": 0.12345678901234567890}')).toContain('"id":0.12345678901234568');
  });
});
