import { describe, expect, test } from 'vitest';
import { type Draft, draftContract } from '../src/index.js';
import { decide, load } from './support.js';

const PILOTS = `
openapi: 3.1.0
info: { title: Pilot roster, version: "1" }
servers: [{ url: "https://{region}.harbour.example/roster/v2/", variables: { region: { default: north } } }]
security: [{ key: [] }]
paths:
  /pilots/{pilotId}: { $ref: "parts/pilots.yaml#/one" }
  /pilots:
    post:
      operationId: hirePilot
      tags: [hiring]
      parameters: [{ name: quay, in: query, required: true, schema: { type: string } }]
      requestBody:
        required: true
        content:
          application/json:
            schema: { $ref: "parts/schemas.yaml#/Pilot" }
            examples: { ida: { value: { name: Ida, rank: 2 } }, tom: { value: { name: Tom, rank: 1 } } }
      responses:
        "201":
          description: hired
          headers: { Location: { schema: { type: string } } }
          content:
            application/json:
              schema: { $ref: "parts/schemas.yaml#/Pilot" }
              examples: { ida: { value: { id: P7, name: Ida, rank: 2 } }, tom: { value: { id: P8, name: Tom, rank: 1 } } }
        "400": { description: bad, content: { application/json: { example: { error: bad } } } }
        "401": { description: who }
        "409": { description: taken }
components: { securitySchemes: { key: { type: apiKey, in: header, name: X-Harbour-Key } } }
`;
const TEXTS = new Map([
  [
    'file:///c/parts/pilots.yaml',
    `
one:
  parameters: [{ name: pilotId, in: path, required: true, schema: { type: integer } }]
  get:
    operationId: readPilot
    tags: [reading]
    security: []
    responses: { "200": { description: ok, content: { application/json: { schema: { $ref: "schemas.yaml#/Pilot" } } } } }
`,
  ],
  [
    'file:///c/parts/schemas.yaml',
    `
Pilot:
  type: object
  required: [name, rank]
  properties:
    id: { type: integer, readOnly: true }
    name: { type: string }
    rank: { type: integer, minimum: 1, maximum: 3 }
    mentor: { $ref: "#/Pilot" }
`,
  ],
]);
const draftOf = (more: object = {}): Draft =>
  draftContract(PILOTS, { service: 'pilots', port: null, address: 'file:///c/main.yaml', texts: TEXTS, ...more });

describe('a contract of several documents', () => {
  const draft = draftOf();
  const service = load(draft.text);
  const hire = (json: unknown, key = 'k') =>
    decide(service, 'POST /roster/v2/pilots?quay=north', { json, headers: key === '' ? {} : { 'x-harbour-key': key } });

  test('is drafted whole, its paths below the base path of its server', () => {
    expect(draft.unusable).toEqual([]);
    expect(service.operations.map(({ on }) => on)).toEqual([
      'GET /roster/v2/pilots/{pilotId}',
      'POST /roster/v2/pilots',
    ]);
    expect(draftOf({ base: false }).text).toContain('on: POST /pilots');
  });

  test('the examples of what is sent and what is answered belong together by their names', () => {
    expect(hire({ name: 'Tom', rank: 1 })).toMatchObject({ caseName: 'tom', answer: { status: 201 } });
    expect(hire({ name: 'Ida', rank: 2 })).toMatchObject({ caseName: 'ida' });
    expect(hire({ name: 'Una', rank: 3 })).toMatchObject({ caseName: 'ida' });
  });

  test.each([
    ['without credentials', () => hire({ name: 'Tom', rank: 1 }, ''), 401],
    ['without a member that is required', () => hire({ name: 'Tom' }), 400],
    ['without a body', () => hire(undefined), 400],
    [
      'without a parameter',
      () =>
        decide(service, 'POST /roster/v2/pilots', {
          json: { name: 'Tom', rank: 1 },
          headers: { 'x-harbour-key': 'k' },
        }),
      400,
    ],
    [
      'asking for it by name',
      () =>
        decide(service, 'POST /roster/v2/pilots?quay=n', {
          json: { name: 'Tom', rank: 1 },
          headers: { 'x-harbour-key': 'k', 'upsetter-case': '409' },
        }),
      409,
    ],
  ])('a call %s gets the documented refusal', (_, call, status) => {
    expect(call()).toMatchObject({ answer: { status } });
  });

  test('a generated answer has the number it was asked for, and no number where none was asked', () => {
    const body = (path: string) => {
      const decision = decide(service, `GET /roster/v2/pilots/${path}`);
      return decision.kind === 'answered' ? JSON.parse(String(decision.answer.body)) : decision;
    };
    expect(body('12')).toMatchObject({ id: 12 });
    expect(body('petrel').id).toEqual(expect.any(Number));
  });

  test('a place of what was made names it', () => {
    expect(hire({ name: 'Ida', rank: 2 })).toMatchObject({
      answer: { headers: expect.arrayContaining(['location', '/roster/v2/pilots/P7']) },
    });
  });

  test('what was not read is told where it is needed, and the rest works', () => {
    const { unusable, operations } = draftOf({ texts: new Map() });
    expect(operations).toBe(1);
    expect(unusable[0]).toEqual({
      at: '#/paths/~1pilots~1{pilotId} (line 7)',
      reason: 'its $ref leads to parts/pilots.yaml, which was not read',
    });
  });

  test.each([
    [{ only: ['tag:hiring'] }, ['hirePilot']],
    [{ without: ['tag:hir*'] }, ['readPilot']],
    [{ only: ['GET /roster/*'] }, ['readPilot']],
    [{ without: ['readPilot'] }, ['hirePilot']],
  ])('%j drafts %j', (choice, names) => {
    expect(load(draftOf(choice).text).operations.map(({ name }) => name)).toEqual(names);
  });

  test('a choice that means nothing is told, with the tags there are', () => {
    expect(() => draftOf({ only: ['tag:sailing'] })).toThrow(/tag:sailing.*the tags are reading, hiring/s);
  });
});

describe('Swagger 2.0', () => {
  const draft = draftContract(
    `
swagger: "2.0"
info: { title: Lamps, version: "1" }
basePath: /v1
consumes: [application/json]
produces: [application/json]
securityDefinitions: { who: { type: basic } }
paths:
  /lamps/{id}:
    parameters: [{ name: id, in: path, required: true, type: string }]
    put:
      security: [{ who: [] }]
      parameters: [{ name: lamp, in: body, required: true, schema: { $ref: "#/definitions/Lamp" } }]
      responses:
        200: { description: ok, schema: { $ref: "#/definitions/Lamp" }, headers: { ETag: { type: string } } }
        401: { description: who }
        422: { description: bad, schema: { type: object, properties: { error: { type: string } } } }
  /lamps:
    get:
      parameters: [{ name: lit, in: query, required: true, type: boolean }]
      responses:
        200: { description: ok, examples: { application/json: [{ id: L1, watts: 5 }] }, schema: { type: array, items: { $ref: "#/definitions/Lamp" } } }
        400: { description: bad }
    post:
      consumes: [application/x-www-form-urlencoded]
      parameters: [{ name: watts, in: formData, required: true, type: integer }]
      responses: { 201: { description: ok }, default: { description: other } }
definitions:
  Lamp: { type: object, required: [watts], properties: { id: { type: string }, watts: { type: integer, minimum: 3, exclusiveMinimum: true, maximum: 4 } } }
`,
    { service: null, port: null },
  );
  const service = load(draft.text);
  const headers = { authorization: 'Basic eDp5' };

  test('is drafted as the others are', () => {
    expect(draft.unusable).toEqual([]);
    expect(decide(service, 'GET /v1/lamps?lit=true')).toMatchObject({ answer: { status: 200 } });
    expect(decide(service, 'GET /v1/lamps')).toMatchObject({ answer: { status: 400 } });
    expect(decide(service, 'PUT /v1/lamps/L5', { json: { watts: 4 } })).toMatchObject({ answer: { status: 401 } });
    expect(decide(service, 'PUT /v1/lamps/L5', { json: {}, headers })).toMatchObject({ answer: { status: 422 } });
    const put = decide(service, 'PUT /v1/lamps/L5', { json: { watts: 4 }, headers });
    expect(put).toMatchObject({ answer: { status: 200, body: '{"id":"L5","watts":4}' } });
    expect(decide(service, 'POST /v1/lamps', {})).toMatchObject({ answer: { status: 201 } });
  });
});

describe('counts, ids and names of generated answers', () => {
  const draft = draftContract(
    `
openapi: 3.0.3
info: { title: Lamps, version: "1" }
paths:
  /lamps:
    get:
      responses:
        "200":
          description: ok
          content: { application/json: { schema: { type: object, properties: { lamps: { type: array, items: { $ref: "#/components/schemas/Lamp" } }, total: { type: integer } } } } }
components: { schemas: { Lamp: { type: object, properties: { id: { type: string }, quayId: { type: string }, name: { type: string } } } } }
`,
    { service: null, port: null },
  );

  test('agree with one another, and read as such', () => {
    const decision = decide(load(draft.text), 'GET /lamps');
    const body =
      decision.kind === 'answered' ? JSON.parse(new TextDecoder().decode(decision.answer.body as Uint8Array)) : null;
    expect(body).toMatchObject({
      total: 2,
      lamps: [{ id: expect.stringMatching(/^lamp-\d+$/), quayId: expect.stringMatching(/^quay-\d+$/) }, {}],
    });
  });
});

describe('an answer in XML that is made of a schema', () => {
  const lamps = (schema: string, type = 'application/xml') => `
openapi: 3.1.0
info: { title: Lamps, version: "1" }
paths:
  /lamps/{id}:
    get:
      parameters: [{ name: id, in: path, required: true, schema: { type: string } }]
      responses: { "200": { description: ok, content: { ${type}: { schema: ${schema} } } } }
components:
  schemas:
    Lamp: { type: object, required: [id], properties: { id: { type: string, xml: { attribute: true } }, name: { type: string, example: "A & <B>" } } }
`;
  const body = (schema: string, type?: string): string => {
    const service = load(draftContract(lamps(schema, type), { service: null, port: null }).text);
    const decision = decide(service, 'GET /lamps/L%269');
    if (decision.kind !== 'answered') return decision.kind;
    const content = decision.answer.body;
    return typeof content === 'string' ? content : new TextDecoder().decode(content ?? undefined);
  };

  test.each([
    [
      'is called as its schema, with attributes, escaped, and the id that was asked for',
      '{ $ref: "#/components/schemas/Lamp" }',
      '<Lamp id="L&amp;9">\n  <name>A &amp; &lt;B&gt;</name>\n</Lamp>',
    ],
    [
      'has the name, prefix and namespace that its schema says',
      '{ type: object, xml: { name: lamp, prefix: l, namespace: "urn:l" }, properties: { lit: { type: boolean, const: true } } }',
      '<l:lamp xmlns:l="urn:l">\n  <lit>true</lit>\n</l:lamp>',
    ],
    [
      'has lists as their items one after the other',
      '{ type: object, properties: { no: { type: array, items: { const: 4 } } } }',
      '<root>\n  <no>4</no>\n  <no>4</no>\n</root>',
    ],
    [
      'has lists within an element of their own where they are wrapped',
      '{ type: object, properties: { nos: { type: array, xml: { wrapped: true }, items: { const: 4, xml: { name: no } } } } }',
      '<root>\n  <nos>\n    <no>4</no>\n    <no>4</no>\n  </nos>\n</root>',
    ],
    [
      'may be a list itself',
      '{ type: array, xml: { name: nos }, items: { const: 4, xml: { name: no } } }',
      '<nos>\n  <no>4</no>\n  <no>4</no>\n</nos>',
    ],
  ])('%s', (_what, schema, expected) => expect(body(schema)).toBe(expected));

  test('keeps the media type of its contract', () => {
    const { text } = draftContract(lamps('{ type: object }', 'application/lamp+xml'), { service: null, port: null });
    expect(text).toContain('content-type: application/lamp+xml');
  });
});
