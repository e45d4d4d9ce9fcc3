import { describe, expect, test } from 'vitest';
import { type CheckedCase, Contract, checkCases, draftContract, OpenApiIndex, requireService } from '../src/index.js';

const LAMPS = `
openapi: 3.1.0
info: { title: Lamps, version: "1" }
servers: [{ url: /v1 }]
paths:
  /lamps/{id}:
    get:
      operationId: readLamp
      parameters: [{ name: id, in: path, required: true, schema: { type: string, pattern: "^L[0-9]$" } }]
      responses:
        "200":
          description: ok
          headers: { x-lit: { required: true, schema: { type: string } }, x-shade: { schema: { type: integer, maximum: 9 } } }
          content: { application/json: { schema: { $ref: "#/components/schemas/Lamp" } } }
        4XX: { description: refused, content: { application/problem+json: { schema: { type: object, required: [title] } } } }
    delete: { responses: { "204": { description: gone } } }
  /lamps:
    post:
      security: [{ key: [] }]
      requestBody: { required: true, content: { application/json: { schema: { $ref: "#/components/schemas/Lamp" } } } }
      responses: { "201": { description: made, content: { "application/*": { schema: { $ref: "#/components/schemas/Lamp" } } } } }
components:
  securitySchemes: { key: { type: http, scheme: bearer } }
  schemas:
    Lamp:
      type: object
      required: [id, colour, secret, no]
      additionalProperties: false
      properties:
        id: { type: string }
        colour: { enum: [red, green] }
        secret: { type: string, writeOnly: true }
        no: { type: integer, readOnly: true }
        twin: { $ref: "#/components/schemas/Lamp" }
        since: { type: string, format: date-time }
        at: { oneOf: [{ type: string }, { type: "null" }] }
`;
const index = new OpenApiIndex(new Contract(LAMPS));

const GOOD = '{ id: "${call.path.id}", colour: red, no: 1 }';

/** What the cases of `GET /lamps/{id}` come to, given as YAML; the paths with the base path of the server, or without. */
function check(cases: string, path = '/v1/lamps/{id}'): readonly CheckedCase[] {
  const text = `upsetter: 1\nservice: lamps\noperations: { readLamp: { on: "GET ${path}", cases: ${cases} } }\n`;
  return checkCases(requireService(text), index).cases;
}
const checkAnswer = (answer: string) => check(`[{ case: a, answer: ${answer} }]`)[0]?.findings ?? [];
const told = (answer: string) => checkAnswer(answer).map(({ at, message }) => `${at} ${message}`);

describe('an answer held against its contract', () => {
  test('may be as it says, with expressions, with a path that has no base path', () => {
    expect(told(`{ headers: { X-Lit: "1" }, json: ${GOOD} }`)).toEqual([]);
    expect(check(`[{ case: a, answer: { headers: { x-lit: "1" }, json: ${GOOD} } }]`, '/lamps/{id}')).toMatchObject([
      { outcome: 'holds' },
    ]);
  });

  test.each([
    [
      '{ headers: { x-lit: "1" }, json: { id: L1, colour: gren, no: 1 } }',
      'json $.colour "gren" is none of "red", "green"; did you mean "green"?',
    ],
    ['{ headers: { x-lit: "1" }, json: { id: 5, colour: red, no: 1 } }', 'json $.id 5 is not of the type string'],
    ['{ headers: { x-lit: "1" }, json: { id: L1, colour: red } }', 'json $ "no" is missing'],
    [
      '{ headers: { x-lit: "1" }, json: { id: L1, colour: red, no: 1, lit: true } }',
      'json $ "lit" is not in the contract',
    ],
    [
      '{ headers: { x-lit: "1" }, json: { id: L1, colour: red, no: 1, since: today } }',
      'json $.since "today" is no date-time',
    ],
    [
      '{ headers: { x-lit: "1" }, json: { id: L1, colour: red, no: 1, at: 5 } }',
      'json $.at 5 is none of what it may be',
    ],
    [
      '{ headers: { x-lit: "1" }, json: { id: L1, colour: red, no: 1, twin: { id: L2, colour: red } } }',
      'json $.twin "no" is missing',
    ],
    [`{ json: ${GOOD} }`, 'header x-lit is missing'],
    [`{ headers: { x-lit: "1", x-shade: "12" }, json: ${GOOD} }`, 'header x-shade 12 must be <= 9'],
    [`{ headers: { x-lit: "1", x-shade: dim }, json: ${GOOD} }`, 'header x-shade "dim" is not of the type integer'],
    [
      '{ headers: { x-lit: "1" }, text: a lamp }',
      'header content-type text/plain is not in the contract; it has application/json',
    ],
    ['{ headers: { x-lit: "1" }, none: true, status: 200 }', 'body is empty; application/json is expected'],
    ['{ status: 503, none: true }', 'status 503 is not in the contract; it has 200, 4XX'],
    ['{ status: 404, problem: { detail: gone } }', 'json $ "title" is missing'],
    ['{ headers: { x-lit: "1" }, json: "${call.path.id + 5}" }', 'answer '],
  ])('%s is told', (answer, finding) => {
    expect(told(answer)).toEqual([expect.stringContaining(finding)]);
  });

  test('is each of its turns', () => {
    const turn = (json: string) => `{ headers: { x-lit: "1" }, json: ${json} }`;
    const colour = (name: string) => GOOD.replace('red', name);
    const turns = `{ turns: { order: in-order, list: [${turn(GOOD)}, ${turn(colour('blue'))}, ${turn(colour('green'))}, ${turn('"${call.path.id + 5}"')}] } }`;
    expect(told(turns)).toEqual([
      'turn 2 json $.colour "blue" is none of "red", "green"',
      expect.stringMatching(/^turn 4 answer /),
    ]);
  });

  test('the rule is told with its place and line', () => {
    expect(checkAnswer('{ headers: { x-lit: "1" }, json: { id: L1, colour: blue, no: 1 } }')).toMatchObject([
      { rule: '#/components/schemas/Lamp/properties/colour/enum (line 31)' },
    ]);
  });
});

describe('the cases of a service', () => {
  test('are called so that their conditions hold, within what the contract allows', () => {
    const answer = `answer: { headers: { x-lit: "1" }, json: ${GOOD} }`;
    const cases = check(
      `[{ case: like, when: { path id: { like: "L*" }, query a: { above: 3 }, header b: { in: [x] } }, ${answer} },
        { case: second, when: { cookie c: { present: true } }, ${answer} },
        { case: never, when: { expr: "1 == 2" }, ${answer} },
        { case: otherwise, ${answer} }]`,
    );
    expect(cases.map((own) => `${own.case} ${own.outcome}`)).toEqual([
      'like holds',
      'second holds',
      'never not called',
      'otherwise holds',
    ]);
  });

  test('of operations that only one of the two has are told', () => {
    const text =
      'upsetter: 1\nservice: a\noperations: { readOil: { on: GET /oil, cases: [{ case: a, answer: { none: true } }] } }\n';
    const { unknown, missing } = checkCases(requireService(text), index);
    expect(unknown).toEqual([{ operation: 'readOil', on: 'GET /oil' }]);
    expect(missing.map(({ on }) => on)).toEqual(['GET /v1/lamps/{id}', 'DELETE /v1/lamps/{id}', 'POST /v1/lamps']);
    expect(missing[0]?.at).toBe('#/paths/~1lamps~1{id}/get (line 8)');
  });

  test('that were drafted from a contract hold against it', () => {
    const draft = draftContract(LAMPS, { service: null, port: null });
    const { cases, unknown, missing } = checkCases(requireService(draft.text, draft.files), index);
    expect(cases.map(({ outcome, findings }) => [outcome, ...findings])).toEqual(cases.map(() => ['holds']));
    expect([...unknown, ...missing]).toEqual([]);
  });

  test('are found by rows and what other cases ask to be missing', () => {
    const text = `
upsetter: 1
service: lamps
datasets: { lamps: { key: id, rows: [{ id: L7, colour: red, no: 4 }] } }
operations:
  readLamp:
    on: GET /lamps/{id}
    row: { of: lamps, where: { id: "\${call.path.id}" } }
    cases:
      - { case: who, when: { header authorization: { present: false } }, answer: { status: 401, problem: { title: who } } }
      - { case: none, when: { row: { present: false } }, answer: { status: 404, problem: { title: none } } }
      - { case: found, answer: { headers: { x-lit: "1" }, json: "\${row}" } }
`;
    expect(checkCases(requireService(text), index).cases.map(({ outcome }) => outcome)).toEqual([
      'holds',
      'holds',
      'holds',
    ]);
  });
});
