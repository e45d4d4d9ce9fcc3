import { describe, expect, test } from 'vitest';
import {
  adoptContract,
  type BesideFiles,
  compareContracts,
  followContract,
  openContract,
  requireService,
} from '../src/index.js';

const doc = (paths: string, more = '') =>
  `openapi: 3.1.0\ninfo: { title: Kiln, version: "1" }\n${more}paths:\n${paths}`;
const json = (schema: string) => `{ content: { application/json: { schema: ${schema} } } }`;
const post = (body: string, more = '') =>
  doc(`  /pots: { post: { requestBody: ${json(body)}, ${more} responses: { "204": { description: ok } } } }`);
const answered = (schema: string) =>
  doc(
    `  /pots: { get: { responses: { "200": { description: ok, content: { application/json: { schema: ${schema} } } } } } }`,
  );

const told = (before: string, now: string) =>
  compareContracts(openContract(before), openContract(now)).map(
    ({ on, at, message, breaks }) =>
      `${breaks ? '!' : ' '} ${[on, at, message].filter((part) => part !== '').join(' ')}`,
  );

describe('a newer version of a contract, by operation, with what breaks callers', () => {
  test.each<[string, string, string, string]>([
    [
      'a required field of a call',
      '{ properties: { a: { type: string } } }',
      '{ required: [a], properties: { a: { type: string } } }',
      '! POST /pots body $.a is required now',
    ],
    [
      'a new required field of a call',
      '{ properties: {} }',
      '{ required: [a], properties: { a: { type: string } } }',
      '! POST /pots body $.a is new, and required',
    ],
    ['a new field of a call', '{ properties: {} }', '{ properties: { a: {} } }', '  POST /pots body $.a is new'],
    [
      'a field of a call that is gone',
      '{ properties: { a: {} } }',
      '{ properties: {} }',
      '  POST /pots body $.a is gone',
    ],
    [
      'a wider type of a call',
      '{ type: integer }',
      '{ type: [integer, string] }',
      '  POST /pots body is integer or string, was integer',
    ],
    ['a narrower type of a call', '{ type: number }', '{ type: integer }', '! POST /pots body is integer, was number'],
    ['a narrower list of a call', '{ enum: [a, b] }', '{ enum: [a] }', '! POST /pots body can no longer be b'],
    ['a wider list of a call', '{ enum: [a] }', '{ enum: [a, b] }', '  POST /pots body can be b, too'],
    [
      'a list where there was none',
      '{ type: string }',
      '{ type: string, enum: [a] }',
      '! POST /pots body has to be one of a',
    ],
    ['a tighter limit', '{ maximum: 9 }', '{ maximum: 5 }', '! POST /pots body maximum is 5, was 9'],
    ['a looser limit', '{ minLength: 9 }', '{ minLength: 5 }', '  POST /pots body minLength is 5, was 9'],
    ['a pattern', '{ type: string }', '{ type: string, pattern: "^a" }', '! POST /pots body has to fit ^a'],
    [
      'items',
      '{ type: array, items: { type: string } }',
      '{ type: array, items: { type: integer } }',
      '! POST /pots body $[] is integer, was string',
    ],
  ])('%s', (_what, before, now, expected) => expect(told(post(before), post(now))).toEqual([expected]));

  test.each<[string, string, string, string]>([
    [
      'a required field of an answer that is gone',
      '{ required: [a], properties: { a: {} } }',
      '{ properties: {} }',
      '! GET /pots 200 $.a is gone; it was required',
    ],
    [
      'a field of an answer that is no longer sure',
      '{ required: [a], properties: { a: {} } }',
      '{ properties: { a: {} } }',
      '! GET /pots 200 $.a is no longer required',
    ],
    [
      'a new field of an answer',
      '{ properties: {} }',
      '{ required: [a], properties: { a: {} } }',
      '  GET /pots 200 $.a is new, and required',
    ],
    ['a type of an answer', '{ type: integer }', '{ type: string }', '! GET /pots 200 is string, was integer'],
    ['a narrower type of an answer', '{ type: number }', '{ type: integer }', '  GET /pots 200 is integer, was number'],
    ['a null', '{ type: string }', '{ type: [string, "null"] }', '! GET /pots 200 is null or string, was string'],
  ])('%s', (_what, before, now, expected) => expect(told(answered(before), answered(now))).toEqual([expected]));

  test('operations, parameters, responses, credentials, media types', () => {
    const before = doc(`  /a:
    get:
      parameters: [{ name: q, in: query, schema: { type: string } }, { name: r, in: query, schema: { type: string } }]
      responses: { "200": { description: ok, content: { text/csv: {}, application/json: {} }, headers: { x-a: { required: true } } }, "404": { description: no } }
  /gone: { delete: { responses: { "204": { description: ok } } } }
`);
    const now = doc(
      `  /a:
    get:
      security: [{ k: [] }]
      parameters: [{ name: q, in: query, required: true, schema: { type: string } }, { name: s, in: header, required: true, schema: { type: string } }]
      requestBody: { required: true, content: { text/plain: {} } }
      responses: { "200": { description: ok, content: { application/json: {} } }, "410": { description: no } }
  /new: { get: { responses: { "204": { description: ok } } } }
`,
      'components: { securitySchemes: { k: { type: apiKey, in: header, name: x-k } } }\n',
    );
    expect(told(before, now)).toEqual([
      '! GET /a credentials asks for header x-k',
      '! GET /a query q is required now',
      '! GET /a header s is new, and required',
      '  GET /a query r is gone',
      '! GET /a body is new, and required',
      '  GET /a 404 is answered no more',
      '  GET /a 410 is new',
      '! GET /a 200 header x-a can no longer be relied on',
      '! GET /a 200 text/csv is gone',
      '  GET /new is new',
      '! DELETE /gone is gone',
    ]);
    expect(told(before, before)).toEqual([]);
  });

  test('circles end', () => {
    const circle = (type: string) =>
      answered('{ $ref: "#/components/schemas/N" }').replace(
        'paths:',
        `components: { schemas: { N: { properties: { v: { type: ${type} }, next: { $ref: "#/components/schemas/N" } } } } }\npaths:`,
      );
    expect(told(circle('integer'), circle('string'))).toEqual(['! GET /pots 200 $.v is string, was integer']);
  });
});

const VERSION = (colour: string, more = '') => `openapi: 3.1.0
info: { title: Lamps, version: "${more === '' ? '1' : '2'}" }
paths:
  /lamps: { get: { operationId: listLamps, responses: { "200": { description: ok, content: { application/json: { example: [${colour}] } } } } } }
  /oil: { get: { operationId: readOil, responses: { "200": { description: ok, content: { application/json: { example: ${colour} } } } } } }
${more}`;
const NEW = '  /wicks: { get: { operationId: listWicks, responses: { "204": { description: ok } } } }\n';
const files = (text: string): BesideFiles => ({ './lamps.yaml': { kind: 'text', content: text } });
const contract = (text: string) => ({ name: './lamps.yaml', files: files(text) });

describe('a service that follows a contract', () => {
  const first = adoptContract('lamps', contract(VERSION('red')));

  test('is drafted by the first version, and brought to the next one', () => {
    const next = followContract(first, contract(VERSION('green', NEW)));
    expect(next.merged).toMatchObject({
      added: ['listWicks'],
      changed: ['listLamps / as documented', 'readOil / as documented'],
      kept: [],
      conflicts: [],
      removed: [],
    });
    const service = requireService(next.text, next.files);
    expect(service.definition).toMatchObject({ version: '2', contract: './lamps.yaml' });
    expect(service.contract?.index.operations).toHaveLength(3);
    expect(next.text).not.toContain('drafted:');
  });

  test('keeps what was edited by hand, and tells where the contract is another now', () => {
    const edited = { ...first, text: first.text.replace('- red', '- blue').replace('version: "1"', 'version: "ours"') };
    const next = followContract(edited, contract(VERSION('green', NEW)));
    expect(next.merged).toMatchObject({
      conflicts: ['listLamps / as documented'],
      changed: ['readOil / as documented'],
    });
    expect(next.text).toContain('- blue');
    expect(requireService(next.text, next.files).definition.version).toBe('ours');
    expect(followContract(edited, contract(VERSION('red', NEW))).merged).toMatchObject({
      kept: ['listLamps / as documented'],
    });
  });

  test('loses what the contract has no more, unless it was edited by hand', () => {
    const less = VERSION('red').replace(/ {2}\/oil.*\n/, '');
    expect(followContract(first, contract(less)).merged).toMatchObject({ removed: ['readOil / as documented'] });
    expect(followContract(first, contract(less)).text).not.toContain('readOil');
    const edited = { ...first, text: first.text.replace('json: red', 'json: blue') };
    const next = followContract(edited, contract(less));
    expect(next.merged).toMatchObject({ removed: [], conflicts: ['readOil / as documented'] });
    expect(next.text).toContain('readOil');
  });

  test('does not get back what was left out of it on purpose', () => {
    const without = { ...first, text: first.text.replace(/ {2}readOil:[\s\S]*$/, '') };
    const next = followContract(without, contract(VERSION('green', NEW)));
    expect(next.merged?.added).toEqual(['listWicks']);
    expect(next.text).not.toContain('readOil');
  });

  test('that was made by hand keeps all it has, and gets what it has not', () => {
    const own =
      'upsetter: 1\nservice: lamps\noperations:\n  mine: { on: GET /lamps, cases: [{ case: mine, answer: { json: 1 } }] }\n';
    const next = followContract({ text: own, files: {} }, contract(VERSION('red')));
    expect(next.text).toContain('case: mine');
    expect(next.merged?.added).toEqual(['readOil']);
    expect(next.changes).toEqual([]);
    expect(requireService(next.text, next.files).contract).not.toBe(null);
  });

  test('with documents that the contract no longer leads to lets go of them', () => {
    const many = (ref: string) => VERSION('red').replace('example: red', `schema: { $ref: "${ref}" }`);
    const part = { kind: 'text' as const, content: 'A: { type: integer, enum: [7] }' };
    const one = adoptContract('lamps', {
      name: './lamps.yaml',
      files: { ...files(many('a.yaml#/A')), './a.yaml': part },
    });
    expect(one.text).toContain('json: 7');
    const two = followContract(one, { name: './lamps.yaml', files: { ...files(many('b.yaml#/A')), './b.yaml': part } });
    expect(Object.keys(two.files).sort()).toEqual(['./b.yaml', './lamps.yaml']);
  });

  test('that is refused by its contract stays as it is', () => {
    expect(() => followContract(first, contract('a: b: c'))).toThrow();
    expect(() => followContract(first, contract('a: 1'))).toThrow(/is expected/);
  });
});

test('what an operation is at and what it is called follow the contract, unless they were changed by hand', () => {
  const file = (text: string) => ({ './kiln.yaml': { kind: 'text' as const, content: text } });
  const get = (path: string, id: string, title: string) =>
    `  ${path}: { get: { operationId: ${id}, summary: ${title}, responses: { "204": { description: ok } } } }\n`;
  const before = doc(get('/pots', 'listPots', 'Pots') + get('/kilns', 'listKilns', 'Kilns'));
  const next = doc(get('/v2/pots', 'listPots', 'All pots') + get('/v2/kilns', 'listKilns', 'All kilns'));
  const own = adoptContract('kiln', { name: './kiln.yaml', files: file(before) });
  const edited = own.text.replace('title: Kilns', 'title: Ovens');
  const followed = followContract({ text: edited, files: own.files }, { name: './kiln.yaml', files: file(next) });
  const { operations } = requireService(followed.text, followed.files).definition;
  expect(operations).toMatchObject({
    listPots: { on: 'GET /v2/pots', title: 'All pots' },
    listKilns: { on: 'GET /v2/kilns', title: 'Ovens' },
  });
});
