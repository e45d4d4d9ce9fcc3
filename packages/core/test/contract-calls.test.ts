import { describe, expect, test } from 'vitest';
import { renderSample } from '../src/contract/keeping/sample-parts.js';
import { type CallFinding, Contract, loadService, OpenApiIndex, RequestView, reportContract } from '../src/index.js';

const QUAY = `
openapi: 3.1.0
info: { title: Quay, version: "1" }
servers: [{ url: /v2 }]
security: [{ key: [] }, { token: [] }]
paths:
  /cranes:
    get:
      security: []
      parameters:
        - { name: state, in: query, schema: { enum: [idle, busy] } }
        - { name: load, in: query, required: true, schema: { type: integer, minimum: 1 } }
        - { name: tags, in: query, schema: { type: array, items: { type: integer }, maxItems: 2 } }
        - { name: ids, in: query, explode: false, schema: { type: array, items: { type: string, pattern: "^C" } } }
        - { name: words, in: query, style: spaceDelimited, explode: false, schema: { type: array, minItems: 2 } }
        - { name: bars, in: query, style: pipeDelimited, explode: false, schema: { type: array, minItems: 2 } }
        - { name: x-shift, in: header, schema: { type: boolean } }
        - { name: crew, in: cookie, schema: { type: string, minLength: 3 } }
        - { name: filter, in: query, content: { application/json: { schema: { type: object, required: [a] } } } }
      responses: { "200": { description: ok, content: { application/json: {}, text/csv: {} } } }
  /cranes/{id}:
    parameters: [{ name: id, in: path, required: true, schema: { type: integer } }]
    get: { responses: { "200": { description: ok } } }
    put:
      requestBody:
        required: true
        content:
          application/json: { schema: { $ref: "#/components/schemas/Crane" } }
          application/x-www-form-urlencoded: { schema: { $ref: "#/components/schemas/Crane" } }
          multipart/form-data: { schema: { $ref: "#/components/schemas/Crane" } }
          text/plain: { schema: { type: integer } }
          image/*: {}
      responses: { "204": { description: done } }
  /points/{at}:
    get:
      security: []
      parameters:
        - { name: at, in: path, required: true, style: matrix, explode: true, schema: { type: object, properties: { x: { type: integer }, y: { type: integer } }, required: [x, y] } }
        - { name: box, in: query, style: deepObject, schema: { type: object, properties: { w: { type: integer }, at: { type: object, properties: { z: { type: integer } } } }, required: [w] } }
      responses: { "200": { description: ok } }
  /labels/{names}:
    get:
      security: []
      parameters: [{ name: names, in: path, required: true, style: label, explode: true, schema: { type: array, items: { type: integer } } }]
      responses: { "200": { description: ok } }
components:
  securitySchemes:
    key: { type: apiKey, in: header, name: X-Key }
    token: { type: http, scheme: bearer }
  schemas:
    Crane:
      type: object
      required: [reach, name]
      properties:
        reach: { type: number }
        name: { type: string }
        no: { type: integer, readOnly: true }
        hooks: { type: array, items: { type: integer } }
        jib: { type: object, properties: { up: { type: boolean } } }
`;
const index = new OpenApiIndex(new Contract(QUAY));

/** What is found on a call: `GET /path`, its headers, its body. */
function check(on: string, headers: Record<string, string> = {}, body?: string): readonly CallFinding[] {
  const [method = '', target = ''] = on.split(' ');
  const request = new RequestView('x', method, target, Object.entries(headers).flat(), 0);
  if (body !== undefined) request.body = new TextEncoder().encode(body);
  const found = index.findByCall(request);
  if (found === null) throw new Error(`no operation: ${on}`);
  return found.indexed.check(request, found.pathTexts) ?? [];
}
const told = (...call: Parameters<typeof check>) => check(...call).map(({ at, message }) => `${at} ${message}`);

const KEY = { 'x-key': 'k' };
const FORM = { ...KEY, 'content-type': 'application/x-www-form-urlencoded' };
const PARTS = { ...KEY, 'content-type': 'multipart/form-data; boundary=b' };
const JSON_TYPE = { ...KEY, 'content-type': 'application/json; charset=utf-8' };
const part = (name: string, value: string) =>
  `--b\r\ncontent-disposition: form-data; name="${name}"\r\n\r\n${value}\r\n`;

describe('a call is as the contract says', () => {
  test.each<Parameters<typeof check>>([
    ['GET /cranes?load=3'],
    ['GET /v2/cranes?load=3&state=idle&tags=1&tags=2'],
    ['GET /cranes?load=3&ids=C1,C2&words=a%20b&bars=a%7Cb'],
    ['GET /cranes?load=3', { 'x-shift': 'true', cookie: 'crew=dawn' }],
    ['GET /cranes?load=3&filter=%7B%22a%22%3A1%7D&anything=goes'],
    ['GET /cranes?load=3', { accept: 'text/csv;q=0.5' }],
    ['GET /cranes?load=3', { accept: 'image/png, text/*' }],
    ['GET /cranes/7', KEY],
    ['GET /cranes/7', { authorization: 'Bearer x' }],
    ['PUT /cranes/7', JSON_TYPE, '{"reach":5.5,"name":"A"}'],
    ['PUT /cranes/7', FORM, 'reach=5.5&name=7&hooks=1&hooks=2'],
    ['PUT /cranes/7', PARTS, `${part('reach', '5')}${part('name', 'A')}${part('jib', '{"up":true}')}--b--\r\n`],
    ['PUT /cranes/7', { ...KEY, 'content-type': 'text/plain' }, '12'],
    ['PUT /cranes/7', { ...KEY, 'content-type': 'image/png' }, 'any'],
    ['PUT /cranes/7', { ...JSON_TYPE, 'content-encoding': 'zstd' }, 'packed'],
    ['GET /points/;x=1;y=2?box[w]=3&box[at][z]=4'],
    ['GET /labels/.1.2'],
  ])('%s %o %s', (...call) => expect(told(...call)).toEqual([]));
});

describe('a call differs from the contract', () => {
  test.each<[string, string, number | null, ...Parameters<typeof check>]>([
    ['query load', 'is missing', 400, 'GET /cranes'],
    ['query load', '"many" is not of the type integer', 400, 'GET /cranes?load=many'],
    ['query load', '0 must be >= 1', 400, 'GET /cranes?load=0'],
    ['query state', '"idel" is none of "idle", "busy"; did you mean "idle"?', 400, 'GET /cranes?load=1&state=idel'],
    ['query sate', 'is not in the contract; did you mean "state"?', null, 'GET /cranes?load=1&sate=idle'],
    ['query tags', '[1,2,3] must NOT have more than 2 items', 400, 'GET /cranes?load=1&tags=1&tags=2&tags=3'],
    ['query tags $[0]', '"a" is not of the type integer', 400, 'GET /cranes?load=1&tags=a'],
    ['query ids $[1]', '"D2" does not fit the pattern ^C', 400, 'GET /cranes?load=1&ids=C1,D2'],
    ['query words', '["a"] must NOT have fewer than 2 items', 400, 'GET /cranes?load=1&words=a'],
    ['query filter', '"a" is missing', 400, 'GET /cranes?load=1&filter=%7B%7D'],
    ['header x-shift', '"on" is not of the type boolean', 400, 'GET /cranes?load=1', { 'X-Shift': 'on' }],
    ['cookie crew', '"ab" must NOT have fewer than 3 characters', 400, 'GET /cranes?load=1', { cookie: 'crew=ab' }],
    [
      'header accept',
      'text/html has none of what the contract answers with: application/json, text/csv',
      406,
      'GET /cranes?load=1',
      { accept: 'text/html' },
    ],
    ['path id', '"seven" is not of the type integer', 400, 'GET /cranes/seven', KEY],
    ['header x-key', 'the call has no credentials (header x-key, or header authorization)', 401, 'GET /cranes/7'],
    [
      'header x-key',
      'the call has no credentials (header x-key, or header authorization)',
      401,
      'GET /cranes/7',
      { authorization: 'Basic x' },
    ],
    ['body', 'is missing', 400, 'PUT /cranes/7', KEY],
    ['body', 'is no application/json', 400, 'PUT /cranes/7', JSON_TYPE, '{'],
    [
      'header content-type',
      'is missing; the contract has application/json, application/x-www-form-urlencoded, multipart/form-data, text/plain, image/*',
      415,
      'PUT /cranes/7',
      KEY,
      '{}',
    ],
    ['json $', '"name" is missing', 400, 'PUT /cranes/7', JSON_TYPE, '{"reach":1}'],
    ['form $.reach', '"far" is not of the type number', 400, 'PUT /cranes/7', FORM, 'reach=far&name=A'],
    ['form $', '"name" is missing', 400, 'PUT /cranes/7', PARTS, `${part('reach', '5')}--b--\r\n`],
    ['form $.jib.up', '"x" is not of the type boolean', 400, 'PUT /cranes/7', FORM, 'reach=1&name=A&jib={"up":"x"}'],
    [
      'text $',
      '"twelve" is not of the type integer',
      400,
      'PUT /cranes/7',
      { ...KEY, 'content-type': 'text/plain' },
      'twelve',
    ],
    ['path at', '"y" is missing', 400, 'GET /points/;x=1'],
    ['query box $.at.z', '"q" is not of the type integer', 400, 'GET /points/;x=1;y=2?box[w]=3&box[at][z]=q'],
    ['path names $[1]', '"b" is not of the type integer', 400, 'GET /labels/.1.b'],
  ])('%s %s', (at, message, refusal, ...call) => {
    expect(check(...call).map((own) => [own.at, own.message, own.refusal])).toEqual([[at, message, refusal]]);
  });

  test('by a rule that names its line, and names that would harm a map are names', () => {
    expect(check('GET /cranes/seven', KEY)[0]?.rule).toBe('#/paths/~1cranes~1{id}/parameters/0/schema/type (line 22)');
    expect(told('GET /points/;x=1;y=2?box[__proto__][w]=1&box[w]=2')).toEqual([]);
    expect(({} as Record<string, unknown>)['w']).toBeUndefined();
  });
});

test('a pattern that would try without end does not hold up the service', () => {
  const text = `openapi: 3.1.0
info: { title: A, version: "1" }
paths:
  /a/{b}:
    get:
      parameters:
        - { name: b, in: path, required: true, schema: { type: string, pattern: "^(a+)+$" } }
        - { name: c, in: query, schema: { type: string, pattern: "^(?=x)xy$" } }
        - { name: d, in: query, schema: { type: string, pattern: "^\\\\d{2,}-é$" } }
      responses: { "200": { description: ok } }
`;
  const hostile = new OpenApiIndex(new Contract(text));
  const ask = (target: string) => {
    const request = new RequestView('x', 'GET', target, [], 0);
    const found = hostile.findByCall(request);
    return (found?.indexed.check(request, found.pathTexts) ?? []).map(({ at }) => at);
  };
  // By a native engine this takes longer than anybody waits.
  expect(ask(`/a/${'a'.repeat(60)}b`)).toEqual(['path b']);
  expect(ask('/a/aaa?c=xy&d=12-%C3%A9')).toEqual([]);
  expect(ask('/a/aaa?c=y&d=1-%C3%A9')).toEqual(['query c', 'query d']);
});

test('a call made up for each operation is as its contract says', () => {
  for (const operation of index.operations) {
    if (operation.address === null) throw new Error(operation.on);
    const { method, target, headers, body } = renderSample(operation.address, operation.samples()[0] as never);
    const flat = Object.fromEntries(headers.flatMap((name, i) => (i % 2 === 0 ? [[name, headers[i + 1] ?? '']] : [])));
    expect(told(`${method} ${target}`, flat, body === null ? undefined : new TextDecoder().decode(body))).toEqual([]);
  }
});

describe('a service file names its contract', () => {
  const FILES = { './quay.yaml': { kind: 'text' as const, content: QUAY } };
  const load = (contract: string, files = FILES) =>
    loadService(`upsetter: 1\nservice: quay\ncontract: ${contract}\noperations: {}\n`, files);
  const refused = (...args: Parameters<typeof load>) => {
    const loaded = load(...args);
    return loaded.kind === 'refused' ? loaded.problems.map(({ message, line, path }) => [line, path, message]) : [];
  };

  test('alone, and with what becomes of calls', () => {
    for (const [text, calls] of [
      ['./quay.yaml', 'report'],
      ['{ file: ./quay.yaml, calls: refuse }', 'refuse'],
    ] as const) {
      const loaded = load(text);
      expect(loaded.kind === 'loaded' ? loaded.service.contract?.calls : loaded).toBe(calls);
    }
  });

  test.each([
    ['./other.yaml', [3, 'contract', 'there is no file ./other.yaml beside the service file']],
    [
      'http://a/b.yaml',
      [3, 'contract', 'a contract is a file beside the service file, such as ./berth-desk.openapi.yaml'],
    ],
    ['{ file: ./quay.yaml, calls: maybe }', [3, 'contract.calls', '`calls` is report, refuse or ignore']],
    [
      '{ file: ./quay.yaml, cals: refuse }',
      [3, 'contract.cals', '`contract` has no key `cals`; did you mean `calls`?'],
    ],
  ])('%s is refused', (text, problem) => expect(refused(text)).toEqual([problem]));

  test('a document it refers to that is broken, missing or oddly named takes nothing but its own rules away', () => {
    const main = QUAY.replace('#/components/schemas/Crane', 'parts.yaml#/Crane').replace(
      '#/components/schemas/Crane',
      '%ZZ.yaml#/Crane',
    );
    const files = {
      './quay.yaml': { kind: 'text' as const, content: main },
      './parts.yaml': { kind: 'text' as const, content: 'a: b: c' },
    };
    const loaded = load('./quay.yaml', files);
    if (loaded.kind === 'refused') throw new Error(loaded.problems[0]?.message);
    const request = new RequestView('x', 'PUT', '/cranes/seven', Object.entries(JSON_TYPE).flat(), 0);
    request.body = new TextEncoder().encode('{}');
    expect(loaded.service.contract?.checkCall(request, null)?.map(({ at }) => at)).toEqual(['path id']);
    expect(reportContract(`upsetter: 1\nservice: quay\ncontract: ./quay.yaml\noperations: {}\n`, files)?.lost).toEqual([
      { at: './parts.yaml', reason: 'it cannot be read' },
      { at: './%ZZ.yaml', reason: 'there is no such file beside the service file' },
    ]);
  });

  test('a contract that cannot be read is refused with its own line', () => {
    const files = { './quay.yaml': { kind: 'text' as const, content: 'openapi: 3.0.0\na: b: c\n' } };
    expect(refused('./quay.yaml', files)[0]?.[2]).toMatch(/^\.\/quay\.yaml, line 2: /);
    expect(refused('./quay.yaml', { './quay.yaml': { kind: 'text', content: 'a: 1' } })[0]?.[2]).toMatch(/is expected/);
  });
});
