import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { describe, expect, test } from 'vitest';
import {
  type CompiledService,
  checkCases,
  draftContract,
  followContract,
  headerOf,
  Lanes,
  openContract,
  requireService,
} from '../src/index.js';
import { decide, type Sent } from './support.js';

const SCHEMAS = `
components:
  schemas:
    Hive:
      type: object
      required: [code, frames, kind, since]
      properties:
        code: { type: string, pattern: "^H[0-9]{3}$", readOnly: true }
        frames: { type: integer, minimum: 4, maximum: 12 }
        kind: { type: string, enum: [straw, wood, clay] }
        since: { type: string, format: date-time, readOnly: true }
        keeperId: { type: integer }
        note: { type: string }
    NewHive:
      type: object
      required: [frames]
      properties: { frames: { type: integer, minimum: 4, maximum: 12 }, kind: { type: string, enum: [straw, wood, clay] }, note: { type: string } }
    HiveLine: { type: object, required: [code], properties: { code: { type: string }, frames: { type: integer } } }
    Keeper: { type: object, required: [id, name], properties: { id: { type: integer, minimum: 1 }, name: { type: string } } }
    Jar:
      type: object
      required: [code, no, grams]
      properties: { code: { type: string }, no: { type: integer }, grams: { type: integer, minimum: 100 } }
    Problem: { type: object, required: [title], properties: { title: { type: string }, status: { type: integer } } }
`;
const ok = (schema: string) => `{ description: ok, content: { application/json: { schema: ${schema} } } }`;
const ref = (name: string) => `{ $ref: "#/components/schemas/${name}" }`;
const sends = (name: string) =>
  `requestBody: { required: true, content: { application/json: { schema: ${ref(name)} } } }`;
const NONE =
  '{ description: No such hive, content: { application/problem+json: { schema: { $ref: "#/components/schemas/Problem" } } } }';
const PAGE = `{ type: object, required: [hives, total], properties: { hives: { type: array, items: ${ref('HiveLine')} }, total: { type: integer } } }`;
const ASKED = `[{ name: kind, in: query, schema: { type: string } }, { name: limit, in: query, schema: { type: integer, default: 2 } }, { name: offset, in: query, schema: { type: integer } }]`;

const CONTRACT = `
openapi: 3.1.0
info: { title: Apiary, version: "1" }
paths:
  /hives:
    get: { operationId: listHives, parameters: ${ASKED}, responses: { "200": ${ok(PAGE)} } }
    post:
      operationId: buildHive
      ${sends('NewHive')}
      responses: { "201": { description: built, headers: { location: { schema: { type: string } } }, content: { application/json: { schema: ${ref('Hive')} } } } }
  /hives/{code}:
    parameters: [{ name: code, in: path, required: true, schema: { type: string, pattern: "^H[0-9]{3}$" } }]
    get: { operationId: readHive, responses: { "200": ${ok(`{ type: object, required: [hive], properties: { hive: ${ref('Hive')} } }`)}, "404": ${NONE} } }
    put: { operationId: rebuildHive, ${sends('NewHive')}, responses: { "200": ${ok(ref('Hive'))}, "404": ${NONE} } }
    patch: { operationId: mendHive, ${sends('NewHive')}, responses: { "200": ${ok(ref('Hive'))}, "404": ${NONE} } }
    delete: { operationId: clearHive, responses: { "204": { description: gone }, "404": ${NONE} } }
  /hives/{code}/smoke:
    post: { operationId: smokeHive, responses: { "202": { description: smoked }, "404": ${NONE} } }
  /hives/{code}/jars: { get: { operationId: listJars, responses: { "200": ${ok(`{ type: array, items: ${ref('Jar')} }`)} } } }
  /hives/{code}/jars/{no}: { get: { operationId: readJar, responses: { "200": ${ok(ref('Jar'))}, "404": ${NONE} } } }
  /keepers: { get: { operationId: listKeepers, responses: { "200": ${ok(`{ type: array, items: ${ref('Keeper')} }`)} } } }
  /keepers/{keeperId}: { get: { operationId: readKeeper, responses: { "200": ${ok(ref('Keeper'))} } } }
${SCHEMAS}`;

const DRAFT = draftContract(CONTRACT, { service: null, port: null, rows: 5 });
const service = requireService(DRAFT.text, DRAFT.files);
const datasets = (own: CompiledService) => own.definition.datasets ?? {};
const rowsOf = (name: string) => datasets(service)[name]?.rows ?? [];

describe('what a contract lists and reads one by one', () => {
  test('becomes rows, as many as are asked for, each valid, with a key of its own', () => {
    expect(Object.entries(datasets(service)).map(([name, { key, rows }]) => [name, key, rows?.length])).toEqual([
      ['hives', 'code', 5],
      ['jars', ['code', 'no'], 5],
      ['keepers', 'id', 5],
    ]);
    const ajv = new Ajv2020({ strict: false });
    addFormats.default(ajv);
    ajv.addSchema({
      $id: 'x:/',
      ...(openContract(CONTRACT) as never as { contract: { main: { root: object } } }).contract.main.root,
    });
    for (const [name, schema] of [
      ['hives', 'Hive'],
      ['jars', 'Jar'],
      ['keepers', 'Keeper'],
    ] as const)
      for (const row of rowsOf(name))
        expect([ajv.validate({ $ref: `x:/#/components/schemas/${schema}` }, row), ajv.errors]).toEqual([true, null]);
    expect(new Set(rowsOf('hives').map(({ code }) => code)).size).toBe(5);
  });

  test('varies, and what names another one names one that is there', () => {
    expect(new Set(rowsOf('hives').map(({ kind }) => kind))).toEqual(new Set(['straw', 'wood', 'clay']));
    const keepers = rowsOf('keepers').map(({ id }) => id);
    for (const { keeperId } of rowsOf('hives')) expect(keepers).toContain(keeperId);
  });

  test('is the same each time', () => {
    expect(draftContract(CONTRACT, { service: null, port: null, rows: 5 }).text).toBe(DRAFT.text);
  });

  test('is offered where no count is given, and stays as it is then', () => {
    const plain = draftContract(CONTRACT, { service: null, port: null });
    expect(plain.text).not.toContain('datasets');
    expect(plain.decisions).toContainEqual({
      of: 'draft',
      concluded: 'hives, jars and keepers could be rows, which calls change',
      evidence: '--rows 5 makes five of each',
    });
  });

  test('holds against its contract, each case of it', () => {
    const { cases } = checkCases(service, openContract(CONTRACT));
    expect(cases.filter(({ outcome }) => outcome !== 'holds')).toEqual([]);
  });
});

describe('a service with rows drafted from a contract', () => {
  /** Calls of one lane, from a fresh start. */
  const start = () => {
    const lanes = new Lanes('seed');
    return (line: string, sent?: Sent) => {
      const decision = decide(service, line, { headers: { 'content-type': 'application/json' }, ...sent }, lanes);
      if (decision.kind !== 'answered') throw new Error(`not answered: ${JSON.stringify(decision)}`);
      const { status, headers, body } = decision.answer;
      const text = typeof body === 'string' ? body : new TextDecoder().decode(body ?? undefined);
      return { status, headers, json: text === '' ? null : (JSON.parse(text) as unknown) };
    };
  };
  const [first, second] = rowsOf('hives') as [{ code: string }, { code: string }];

  test('lists fields of them, by what is asked for, a page at a time', () => {
    const call = start();
    expect(call('GET /hives').json).toMatchObject({ hives: [{ code: first.code }, { code: second.code }], total: 5 });
    expect(Object.keys((call('GET /hives').json as { hives: object[] }).hives[0] ?? {})).toEqual(['code', 'frames']);
    expect(call('GET /hives?offset=4&limit=3').json).toMatchObject({ hives: [{}], total: 5 });
    expect(call('GET /hives?kind=clay&limit=many').json).toMatchObject({ total: 1 });
  });

  test('reads one in its envelope, and has the documented 404 for the others', () => {
    const call = start();
    expect(call(`GET /hives/${second.code}`)).toMatchObject({ status: 200, json: { hive: second } });
    expect(call('GET /hives/H000')).toMatchObject({ status: 404, json: { title: 'No such hive', status: 404 } });
    expect(call('POST /hives/H000/smoke').status).toBe(404);
    expect(call(`POST /hives/${first.code}/smoke`).status).toBe(202);
  });

  test('creates, replaces, changes and removes', () => {
    const call = start();
    const made = call('POST /hives', { json: { frames: 9, note: 'new' } });
    expect(made).toMatchObject({ status: 201, json: { frames: 9, note: 'new', since: '2026-03-02T09:30:00.000Z' } });
    const { code } = made.json as { code: string };
    expect(code).toMatch(/^H\d{3}$/);
    expect(headerOf(made.headers, 'location')).toBe(`/hives/${code}`);
    expect(call('GET /hives').json).toMatchObject({ total: 6 });
    expect(call(`PATCH /hives/${code}`, { json: { frames: 10 } }).json).toMatchObject({
      code,
      frames: 10,
      note: 'new',
    });
    const replaced = call(`PUT /hives/${code}`, { json: { frames: 11, kind: 'wood' } }).json;
    expect(replaced).toMatchObject({ code, frames: 11, kind: 'wood' });
    expect(replaced).not.toHaveProperty('note');
    expect(call(`GET /hives/${code}`).json).toEqual({ hive: replaced });
    expect(call(`DELETE /hives/${code}`).status).toBe(204);
    expect(call(`GET /hives/${code}`).status).toBe(404);
  });

  test('keeps what belongs to one apart from what belongs to others', () => {
    const call = start();
    const [jar] = rowsOf('jars') as [{ code: string; no: number }];
    expect(call(`GET /hives/${jar.code}/jars/${jar.no}`).json).toEqual(jar);
    expect(call(`GET /hives/H999/jars/${jar.no}`).status).toBe(404);
    expect((call(`GET /hives/${jar.code}/jars`).json as unknown[]).length).toBeGreaterThan(0);
    expect(call('GET /hives/H999/jars').json).toEqual([]);
  });

  test('answers any id where the contract has no 404', () => {
    const call = start();
    const [keeper] = rowsOf('keepers') as [{ id: number }];
    expect(call(`GET /keepers/${keeper.id}`).json).toEqual(keeper);
    expect(call('GET /keepers/987654')).toMatchObject({ status: 200, json: { id: 987654 } });
  });
});

test('a service that follows its contract keeps its rows, those changed by hand, too', () => {
  const file = (text: string) => ({ './apiary.yaml': { kind: 'text' as const, content: text } });
  const own = draftContract(CONTRACT, { service: null, port: null, rows: 3, follow: './apiary.yaml' });
  const text = own.text.replace(/frames: \d+/, 'frames: 12');
  const next = CONTRACT.replace('operationId: smokeHive', 'operationId: smokeHive, summary: With smoke');
  const followed = followContract(
    { text, files: { ...own.files, ...file(CONTRACT) } },
    { name: './apiary.yaml', files: file(next) },
  );
  const { definition } = requireService(followed.text, followed.files);
  expect(definition.datasets?.['hives']?.rows?.map(({ frames }) => frames)[0]).toBe(12);
  expect(definition.datasets?.['hives']?.rows).toHaveLength(3);
  expect(definition.operations['smokeHive']?.title).toBe('With smoke');
});
