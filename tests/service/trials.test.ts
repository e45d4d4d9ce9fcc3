import type { TrialDetail } from '@upsetter/core/wire';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { createDatabase, type TestDatabase } from '../support/database.js';
import { type RealService, startRealService } from '../support/real-service.js';
import { startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';

const OPERATIONS = `
readLamp:
  on: GET /lamps/{id}
  cases: [{ case: lit, answer: { headers: { x-lamp: "1" }, json: { id: "\${call.path.id}", colour: red } } }]
readOil:
  on: GET /oil
  cases: [{ case: full, answer: { json: { barrels: 3 } } }]
orderOil:
  on: POST /orders
  cases: [{ case: made, answer: { status: 201, none: true } }]
`;

let database: TestDatabase;
let upsetter: TestUpsetter;
let real: RealService;
/** What the real service answers on `/oil`, and calls it waits with. */
let oil = { barrels: 3 } as unknown;
let held: (() => void) | null = null;
let asked: string[] = [];
beforeAll(async () => {
  database = await createDatabase();
  upsetter = await startTestUpsetter({ databaseUrl: database.url });
});
afterAll(async () => {
  await upsetter.stop();
  await database.drop();
});
beforeEach(async () => {
  oil = { barrels: 3 };
  held = null;
  asked = [];
  real = await startRealService((incoming, outgoing) => {
    asked.push(`${incoming.method} ${incoming.url} ${incoming.headers['x-key'] ?? ''}`.trim());
    const body = incoming.url === '/oil' ? oil : { id: 'L1', colour: 'red' };
    const answer = (): void => {
      outgoing.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(body));
    };
    if (incoming.url === '/hold') held = answer;
    else answer();
  });
});
afterEach(() => real.stop());

async function ended(id: string): Promise<TrialDetail> {
  return until(async () => {
    const trial = await upsetter.client.readTrial(id);
    return trial.state !== 'running' && trial;
  });
}

async function tryIt(service: string, more: object = {}): Promise<TrialDetail> {
  const { id } = await upsetter.client.startTrial(service, { against: real.url, callsPerSecond: 500, ...more });
  return ended(id);
}

describe('a trial in the running service', () => {
  test('is kept with what each step came to, and with what changed since the one before it', async () => {
    await upsetter.serve('lamps', OPERATIONS);
    const first = await tryIt('lamps', { environment: 'staging', headers: { 'X-Key': 'k' } });
    expect(first).toMatchObject({ state: 'done', counts: { holds: 1, differs: 1, notTried: 1 }, since: null });
    expect(asked).toEqual(['GET /oil k', 'GET /lamps/x1 k']);
    expect(JSON.stringify(first)).not.toContain('"k"');
    oil = {};
    const second = await tryIt('lamps', { environment: 'staging' });
    expect(second.since?.changes).toMatchObject([
      { operation: 'readOil', what: 'began', differences: [{ at: 'json $.barrels' }] },
    ]);
    expect((await tryIt('lamps')).since).toBe(null);
    const listed = await upsetter.client.listTrials('lamps');
    expect(listed.map(({ environment, changes }) => [environment, changes])).toEqual([
      ['default', null],
      ['staging', { began: 1, changed: 0, ended: 0 }],
      ['staging', null],
    ]);
  });

  test('is told as a page and as JUnit XML', async () => {
    await upsetter.serve('told-lamps', OPERATIONS);
    const { id } = await tryIt('told-lamps');
    const read = async (form: string) => (await fetch(`${upsetter.running.address}/api/trials/${id}/${form}`)).text();
    expect(await read('page')).toContain('<h1>told-lamps</h1>');
    expect(await read('junit')).toContain('<failure message="header x-lamp');
  });

  test('adopts a difference into the case, or accepts it with a reason; the next one shows it', async () => {
    await upsetter.serve('mended-lamps', OPERATIONS);
    oil = { barrels: 'many' };
    const { id } = await tryIt('mended-lamps');
    const adopted = await upsetter.client.adoptDifference(id, {
      operation: 'readOil',
      case: 'full',
      at: 'json $.barrels',
    });
    expect(adopted.revision).toBe(2);
    await upsetter.client.acceptDifference(id, {
      operation: 'readLamp',
      case: 'lit',
      at: 'header x-lamp',
      because: 'known',
    });
    expect(await tryIt('mended-lamps')).toMatchObject({
      counts: { holds: 1, accepted: 1, differs: 0 },
      since: { changes: [{ what: 'ended' }, { what: 'ended' }] },
    });
    const { file } = await upsetter.client.readService('mended-lamps');
    expect(file).toContain('barrels: many');
    expect(file).toContain('because: known');
  });

  test('can be stopped: what was tried until then is kept', async () => {
    const slow = 'hold: { on: GET /hold, cases: [{ case: a, answer: { json: 1 } }] }\n';
    await upsetter.serve('slow-lamps', `${OPERATIONS}${slow}`);
    const { id } = await upsetter.client.startTrial('slow-lamps', { against: real.url, callsPerSecond: 500 });
    await until(async () => held !== null);
    expect(await upsetter.client.readTrial(id)).toMatchObject({ state: 'running', planned: 4, endedAt: null });
    const stopped = await upsetter.client.stopTrial(id);
    (held as (() => void) | null)?.();
    expect(stopped.state).toBe('stopped');
    expect(stopped.steps.map(({ operation }) => operation)).toEqual(['readOil']);
    await expect(upsetter.client.stopTrial(id)).rejects.toMatchObject({ problem: { code: 'trial-unknown' } });
  });

  test('is kept, too, when it was run elsewhere', async () => {
    await upsetter.serve('kept-lamps', OPERATIONS);
    const { steps } = await tryIt('kept-lamps');
    const kept = await upsetter.client.keepTrial('kept-lamps', {
      against: 'http://127.0.0.1:1/',
      startedAt: new Date().toISOString(),
      steps,
    });
    expect((await upsetter.client.readTrial(kept.id)).since?.changes).toEqual([]);
  });

  test.each([
    [{ against: 'http://lamps.example/' }, 'upstream-refused'],
    [{ against: 'ftp://127.0.0.1/' }, 'request-refused'],
    [{ against: 'http://127.0.0.1:1/', environment: 'Not this' }, 'request-refused'],
    [{ against: 'http://127.0.0.1:1/', callsPerSecond: 0 }, 'request-refused'],
  ])('%j is refused', async (start, code) => {
    await upsetter.serve('refused-lamps', OPERATIONS);
    await expect(upsetter.client.startTrial('refused-lamps', start)).rejects.toMatchObject({ problem: { code } });
  });
});
