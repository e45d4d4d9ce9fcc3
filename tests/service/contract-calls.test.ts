import type { BesideFiles } from '@upsetter/core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createDatabase, type TestDatabase } from '../support/database.js';
import { startRealService } from '../support/real-service.js';
import { fileOf, startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';

const CONTRACT = `
openapi: 3.1.0
info: { title: Lamps, version: "1" }
paths:
  /lamps/{id}:
    get:
      operationId: readLamp
      parameters: [{ name: id, in: path, required: true, schema: { type: string, pattern: "^L[0-9]$" } }]
      responses:
        "200": { description: ok, content: { application/json: { schema: { $ref: "parts/lamp.yaml#/Lamp" } } } }
        "404": { description: none, content: { application/problem+json: { schema: { type: object, required: [title], properties: { title: { type: string } } } } } }
  /lamps:
    post:
      operationId: addLamp
      requestBody: { required: true, content: { application/json: { schema: { $ref: "parts/lamp.yaml#/Lamp" } } } }
      responses: { "204": { description: made } }
  /oil: { get: { operationId: readOil, responses: { "200": { description: ok, content: { application/json: { schema: { type: object, required: [barrels], properties: { barrels: { type: integer } } } } } } } } }
`;
const LAMP =
  'Lamp: { type: object, required: [id, colour], properties: { id: { type: string }, colour: { enum: [red, green] } } }\n';
const FILES: BesideFiles = {
  './lamps.yaml': { kind: 'text', content: CONTRACT },
  './parts/lamp.yaml': { kind: 'text', content: LAMP },
};
const OPERATIONS = `
readLamp:
  on: GET /lamps/{id}
  cases:
    - case: lit
      answer: { json: { id: "\${call.path.id}", colour: gren } }
addLamp:
  on: POST /lamps
  cases: [{ case: made, answer: { status: 204, none: true } }]
`;
const SEND = { method: 'POST', headers: { 'content-type': 'application/json' } };

let database: TestDatabase;
let upsetter: TestUpsetter;
beforeAll(async () => {
  database = await createDatabase();
  upsetter = await startTestUpsetter({ databaseUrl: database.url });
});
afterAll(async () => {
  await upsetter.stop();
  await database.drop();
});

/** Saves a service that follows the contract; gives its address. */
async function serve(name: string, contract: string, more = ''): Promise<string> {
  const { address } = await upsetter.client.saveService(
    name,
    fileOf(name, OPERATIONS, `contract: ${contract}\n${more}`),
    {
      files: FILES,
    },
  );
  return address ?? '';
}

async function lastCall(service: string) {
  const [call] = (await upsetter.client.listCalls({ service, limit: 1 })).calls;
  return upsetter.client.readCall(call?.id ?? '');
}

describe('calls that differ from the contract', () => {
  test('are reported: answered all the same, with what differs on the call', async () => {
    const address = await serve('reporting', './lamps.yaml');
    expect((await fetch(`${address}/lamps/lantern`)).status).toBe(200);
    expect(await lastCall('reporting')).toMatchObject({
      answeredBy: 'case',
      findings: 1,
      findingList: [
        { in: 'call', at: 'path id', message: '"lantern" does not fit the pattern ^L[0-9]$', refusal: 400 },
      ],
    });
    await fetch(`${address}/lamps`, { ...SEND, body: '{"id":"L1","colour":"grean"}' });
    expect((await lastCall('reporting')).findingList).toEqual([
      {
        in: 'call',
        at: 'json $.colour',
        message: '"grean" is none of "red", "green"; did you mean "green"?',
        rule: 'lamp.yaml#/Lamp/properties/colour/enum (line 1)',
        refusal: 400,
      },
    ]);
    await fetch(`${address}/lamps/L1`);
    const { calls } = await upsetter.client.listCalls({ service: 'reporting', findings: true });
    expect(calls.map(({ url }) => url)).toEqual(['/lamps', '/lamps/lantern']);
  });

  test('are refused with a problem that names each, where the service says so', async () => {
    const address = await serve('refusing', '{ file: ./lamps.yaml, calls: refuse }');
    const answer = await fetch(`${address}/lamps`, { ...SEND, body: '{"colour":"blue"}' });
    expect(answer.status).toBe(400);
    expect(answer.headers.get('content-type')).toBe('application/problem+json');
    expect(await answer.json()).toMatchObject({
      code: 'contract-broken',
      detail: 'json $ "id" is missing (and 1 more)',
      findings: [{ at: 'json $' }, { at: 'json $.colour', message: '"blue" is none of "red", "green"' }],
    });
    expect(await lastCall('refusing')).toMatchObject({ answeredBy: 'contract', case: null, stray: false });
    expect((await upsetter.client.why((await lastCall('refusing')).id)).why.summary).toBe(
      'refused by the contract: json $ "id" is missing; without the refusal: case made of addLamp answers whatever comes to it',
    );
    expect((await fetch(`${address}/lamps`, { ...SEND, headers: {}, body: 'x' })).status).toBe(415);
    expect((await fetch(`${address}/lamps/L1`, { headers: { accept: 'text/html' } })).status).toBe(406);
    expect((await fetch(`${address}/lamps`, { ...SEND, body: '{"id":"L1","colour":"red"}' })).status).toBe(204);
    expect((await fetch(`${address}/wicks`)).status).toBe(404);
    expect((await lastCall('refusing')).findingList[0]?.message).toBe('GET /wicks is not in the contract');
    expect((await fetch(`${address}/lamps/L1`, { method: 'OPTIONS' })).status).toBe(204);
  });

  test('are left alone where the service says so', async () => {
    const address = await serve('ignoring', '{ file: ./lamps.yaml, calls: ignore }');
    await fetch(`${address}/lamps/lantern`);
    expect((await lastCall('ignoring')).findings).toBe(0);
  });

  test('are kept in the database with what differs', async () => {
    const own = await createDatabase();
    const { running, client } = await startTestUpsetter({ databaseUrl: own.url });
    const { address } = await client.saveService('kept', fileOf('kept', OPERATIONS, 'contract: ./lamps.yaml'), {
      files: FILES,
    });
    await fetch(`${address}/lamps/lantern`);
    await fetch(`${address}/lamps/L1`);
    await running.stop();
    const again = await startTestUpsetter({ databaseUrl: own.url });
    const { calls } = await again.client.listCalls({ findings: true });
    expect(calls.map(({ url, findings }) => [url, findings])).toEqual([['/lamps/lantern', 1]]);
    expect((await again.client.readCall(calls[0]?.id ?? '')).findingList[0]?.at).toBe('path id');
    await again.stop();
    await own.drop();
  });
});

test('an answer that is relayed is held against the contract', async () => {
  const real = await startRealService((_incoming, outgoing) => {
    outgoing.writeHead(200, { 'content-type': 'application/json' }).end('{"barrels":"three"}');
  });
  const address = await serve('relaying', './lamps.yaml', `upstream: ${real.url}\nstrays: relay`);
  expect(await (await fetch(`${address}/oil`)).json()).toEqual({ barrels: 'three' });
  const call = await until(async () => {
    const last = await lastCall('relaying');
    return last.state === 'done' && last;
  });
  expect(call).toMatchObject({
    answeredBy: 'upstream',
    findingList: [{ in: 'answer', at: 'json $.barrels', message: '"three" is not of the type integer' }],
  });
  await real.stop();
});

describe('a service that names its contract', () => {
  test('is held against it, each finding with its line in the file, also after a change', async () => {
    await serve('held', './lamps.yaml');
    const report = await upsetter.client.readContractReport('held');
    expect(report).toMatchObject({
      file: './lamps.yaml',
      missing: [{ on: 'GET /oil' }],
      incomplete: [{ operation: 'readLamp', code: '404' }],
    });
    expect(report?.cases.find(({ outcome }) => outcome === 'differs')).toMatchObject({
      operation: 'readLamp',
      findings: [{ at: 'json $.colour', line: 8, column: 58 }],
    });
    expect((await upsetter.client.readService('held')).contractFindings).toBe(1);
    await upsetter.client.saveAnswer('held', 'readLamp', 'lit', 'json: { id: L1, colour: green }');
    const after = await upsetter.client.readContractReport('held');
    expect(after?.cases.map(({ outcome }) => outcome)).toEqual(['holds', 'holds']);
    expect((await upsetter.client.readService('held')).contractFindings).toBe(0);
  });

  test('is completed by one operation, by one response, by all; nothing is saved until it is said', async () => {
    await serve('completed', './lamps.yaml');
    const { client } = upsetter;
    const one = await client.completeService('completed', { kind: 'response', operation: 'readLamp', code: '404' });
    expect(one.added).toEqual(['readLamp / 404']);
    expect(one.file).toContain('header upsetter-case: "404"');
    expect((await client.completeService('completed', { kind: 'operation', on: 'GET /oil' })).added).toEqual([
      'readOil',
    ]);
    expect((await client.completeService('completed', { kind: 'operation', on: 'GET /gas' })).added).toEqual([]);
    const all = await client.completeService('completed', null);
    expect(all.added).toEqual(['readLamp / 404', 'readOil']);
    expect((await client.readService('completed')).revision).toBe(1);
    await client.saveService('completed', all.file, { files: all.files });
    expect(await client.readContractReport('completed')).toMatchObject({ missing: [], incomplete: [] });
    expect((await client.readContractReport('completed'))?.cases).toHaveLength(4);
  });

  test('and one that names none has no report', async () => {
    await upsetter.serve('plain', OPERATIONS);
    expect(await upsetter.client.readContractReport('plain')).toBeNull();
    await expect(upsetter.client.completeService('plain', null)).rejects.toMatchObject({
      problem: { code: 'contract-unknown', status: 404 },
    });
  });
});
