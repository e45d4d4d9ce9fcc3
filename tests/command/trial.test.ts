import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Trial } from '@upsetter/core';
import { createBerthDesk, createManifestOffice } from '@upsetter/demo/world';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { interrupt, startCommand, upsetter } from '../support/command.js';
import { readAll, startRealService } from '../support/real-service.js';

const OFFICE = fileURLToPath(new URL('../../packages/demo/files/manifest-office.yaml', import.meta.url));
const DESK = fileURLToPath(new URL('../../packages/demo/files/berth-desk.yaml', import.meta.url));
let directory: string;
beforeAll(async () => {
  directory = await mkdtemp(join(tmpdir(), 'upsetter-trial-'));
});
afterAll(() => rm(directory, { recursive: true }));
const file = (name: string) => join(directory, name);

/** Runs a trial at full speed; what it prints as JSON. */
async function tryOn(
  source: string,
  against: string,
  ...more: string[]
): Promise<{ code: number | null; trial: Trial }> {
  const { code, out, err } = await upsetter([
    'trial',
    source,
    '--against',
    against,
    '--rate',
    '500',
    '--json',
    ...more,
  ]);
  if (out === '') throw new Error(err);
  return { code, trial: JSON.parse(out) as Trial };
}
const outcomes = ({ steps }: Trial) =>
  steps.map(({ operation, name, outcome }) => `${operation} / ${name}: ${outcome}`);
const differences = ({ steps }: Trial) =>
  steps.flatMap((step) => step.differences.map(({ at, message }) => `${step.operation} ${at} ${message}`));

test('the manifest office holds against its real one, over SOAP, those cases that only earlier calls lead to with it', async () => {
  const real = createManifestOffice();
  const { code, trial } = await tryOn(
    OFFICE,
    await real.listen({ host: '127.0.0.1', port: 0 }),
    '--writes',
    '--hostile',
  );
  await real.close();
  expect(outcomes(trial).filter((text) => !text.includes('without'))).toEqual([
    'lodgeManifest / more than the quay holds: holds',
    'lodgeManifest / lodged: holds',
    'readManifest / read: holds',
    'clearManifest / cleared: holds',
    'clearManifest / cleared already: holds',
    'readManifest / unknown: holds',
    'clearManifest / unknown: holds',
    'askTariff / fuel: holds',
    'askTariff / all other goods: holds',
  ]);
  // It does not read its own schema: calls that lack a part are answered.
  expect(code).toBe(1);
  expect(differences(trial)).toContain(
    'askTariff body 200: a call that the contract does not allow is to be refused by a fault',
  );
});

describe('the berth desk against its real one', () => {
  test('differs in exactly the three ways it was made to, time after time; ids and the token are carried', async () => {
    const desk = createBerthDesk();
    const url = await desk.listen({ host: '127.0.0.1', port: 0 });
    for (let turn = 0; turn < 2; turn++) {
      const { code, trial } = await tryOn(DESK, url, '--writes');
      expect(code).toBe(1);
      expect(differences(trial)).toEqual([
        'listFreeBerths header cache-control is missing',
        'readNeighbours status 404 is not in the contract; it has 200',
        'releaseBooking status 200 is not in the contract; it has 204',
      ]);
      const token = trial.steps.find(({ operation }) => operation === 'logIn')?.got?.body ?? '';
      expect(JSON.parse(token)).toMatchObject({ token: '(masked)' });
      expect(trial.steps.find(({ name }) => name === 'booked')?.request?.headers).toContain('Bearer (masked)');
      expect(trial.steps.filter(({ outcome }) => outcome === 'not tried')).toEqual([]);
    }
    const page = file('trial.html');
    const { out, code } = await upsetter([
      'trial',
      DESK,
      '--against',
      url,
      '--rate',
      '500',
      '--html',
      page,
      '--junit',
      file('t.xml'),
    ]);
    expect(code).toBe(1);
    expect(out).toContain('createBooking / booked  POST may change things: --writes sends it');
    expect(out).toContain('readBooking / confirmed  it reads what another call makes: --writes makes one');
    expect(await readFile(file('t.xml'), 'utf8')).toContain('tests="6" failures="2"');
    const html = await readFile(page, 'utf8');
    expect(html).toContain('cache-control</code> is missing');
    expect(html).not.toMatch(/(src|href)=/);
    await desk.close();
  });
});

const BUOYS = `upsetter: 1
service: buoys
contract: ./buoys.openapi.yaml
operations:
  readBuoy:
    on: GET /buoys/{id}
    cases:
      - case: lit
        when: { path id: "7" }
        exact: [json $.light, header x-office, "json $.zones[*]"]
        answer: { headers: { x-office: north }, json: { id: 7, light: red, zones: [1, 2] } }
      - case: after two
        when: { expr: "call.id == 'never'" }
        answer: { none: true }
  addBuoy:
    on: POST /buoys
    cases: [{ case: made, sample: { json: { light: green }, query: { by: ada } }, answer: { status: 201, json: { id: 1 } } }]
  moveBuoy:
    on: PUT /buoys/{id}/place
    cases: [{ case: moved, answer: { status: 204, none: true } }]
`;
const CONTRACT = `openapi: 3.1.0
info: { title: Buoys, version: "1" }
paths:
  /buoys:
    post:
      parameters: [{ name: by, in: query, required: true, schema: { type: string } }]
      requestBody: { required: true, content: { application/json: { schema: { type: object, required: [light], properties: { light: { enum: [red, green] } } } } } }
      responses: { "201": { description: made }, 4XX: { description: refused } }
  /buoys/{id}:
    get: { responses: { "200": { description: ok, content: { application/json: { schema: { type: object, properties: { id: { type: integer } } } } } } } }
  /buoys/{id}/place:
    put: { responses: { "204": { description: moved } } }
`;

describe('a trial', () => {
  const seen: string[] = [];
  let real: Awaited<ReturnType<typeof startRealService>>;
  beforeAll(async () => {
    await writeFile(file('buoys.yaml'), BUOYS);
    await writeFile(file('buoys.openapi.yaml'), CONTRACT);
    real = await startRealService(async (incoming, outgoing) => {
      const body = String(await readAll(incoming));
      seen.push(`${incoming.method} ${incoming.url} ${body} ${incoming.headers['x-key'] ?? ''}`.trim());
      if (incoming.method === 'PUT') outgoing.writeHead(204).end();
      else if (incoming.method === 'POST' && !incoming.url?.includes('by=')) outgoing.writeHead(400).end();
      else if (incoming.method === 'POST')
        outgoing.writeHead(201, { location: '/buoys/B%2042', 'content-type': 'application/json' }).end('{"id":"B 42"}');
      else
        outgoing.writeHead(200, { 'content-type': 'application/json' }).end('{"id":"7","light":"green","zones":[1,2]}');
    });
  });
  afterAll(() => real.stop());

  test('compares status and shape, by value only what the case calls exact, and the contract with its rule', async () => {
    const { trial } = await tryOn(file('buoys.yaml'), real.url);
    expect(outcomes(trial)).toEqual([
      'readBuoy / lit: differs',
      'readBuoy / after two: not tried',
      'addBuoy / made: not tried',
      'moveBuoy / moved: not tried',
    ]);
    expect(differences(trial)).toEqual([
      'readBuoy header x-office is missing; the case has it',
      'readBuoy json $.light is "green"; the case has exactly "red"',
      'readBuoy header x-office is missing; the case has exactly north',
      'readBuoy json $.id "7" is not of the type integer',
    ]);
  });

  test('sends what the case says of its call, carries ids from Location, and headers that are given', async () => {
    seen.length = 0;
    await tryOn(file('buoys.yaml'), `${real.url}/`, '--writes', '-H', 'x-key: k');
    expect(seen).toEqual(['POST /buoys?by=ada {"light":"green"} k', 'GET /buoys/7  k', 'PUT /buoys/B%2042/place  k']);
  });

  test('with hostile calls finds those that are not refused', async () => {
    const { trial } = await tryOn(file('buoys.yaml'), real.url, '--writes', '--hostile');
    const hostile = trial.steps.filter(({ kind }) => kind === 'hostile');
    expect(hostile.map(({ name, outcome }) => [name, outcome])).toEqual([
      ['without query by', 'holds'],
      ['without a body', 'differs'],
      ['without light', 'differs'],
    ]);
  });

  test('of a service of the running one goes by its name', async () => {
    const service = await startCommand(['run', file('buoys.yaml'), '--port', '0']);
    const { trial } = await tryOn('buoys', real.url, '--control', service.control);
    expect(trial.service).toBe('buoys');
    expect(trial.steps[0]).toMatchObject({
      request: { target: '/buoys/7' },
      wanted: { status: 200 },
      got: { status: 200 },
    });
    await interrupt(service);
  });

  test('against what does not answer says so of each call; wrong use is told', async () => {
    const { code, trial } = await tryOn(file('buoys.yaml'), 'http://127.0.0.1:1');
    expect(code).toBe(1);
    expect(trial.steps[0]?.differences[0]?.message).toBe('no answer from http://127.0.0.1:1/buoys/7: ECONNREFUSED');
    for (const args of [
      [],
      ['--against', 'desk'],
      ['--against', real.url, '--rate', '0'],
      ['--against', real.url, '-H', 'x'],
    ])
      expect((await upsetter(['trial', file('buoys.yaml'), ...args])).code).toBe(2);
    await writeFile(file('bad.yaml'), BUOYS.replace('json $.light,', 'json $[,'));
    const bad = await upsetter(['trial', file('bad.yaml'), '--against', real.url]);
    expect(bad).toMatchObject({ code: 2, err: expect.stringContaining('bad.yaml:10:') });
  });
});
