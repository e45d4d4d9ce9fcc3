import { once } from 'node:events';
import { createServer } from 'node:net';
import knexFactory from 'knex';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { createCuttableProxy } from '../support/cuttable-proxy.js';
import { createDatabase, type TestDatabase } from '../support/database.js';
import { findFreePort } from '../support/free-port.js';
import { fileOf, startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';

const OPERATIONS =
  'read:\n  on: GET /lamp/{id}\n  cases: [{ case: lit, when: { path id: { like: "L*" } }, answer: { json: { id: "${call.path.id}" } }, then: [{ log: "seen ${answer.json.id}" }] }]';

let database: TestDatabase;
const running = new Set<TestUpsetter>();

beforeAll(async () => {
  database = await createDatabase();
});
afterEach(async () => {
  for (const upsetter of running) await upsetter.stop();
  running.clear();
});
afterAll(() => database.drop());

async function start(databaseUrl = database.url): Promise<TestUpsetter> {
  const upsetter = await startTestUpsetter({ databaseUrl });
  running.add(upsetter);
  return upsetter;
}

async function query<T>(sql: string): Promise<T[]> {
  const knex = knexFactory({ client: 'pg', connection: database.url, pool: { min: 0, max: 1 } });
  const { rows } = (await knex.raw(sql)) as { rows: T[] };
  await knex.destroy();
  return rows;
}

describe('with PostgreSQL', () => {
  test('services, revisions and calls are there after a restart, and calls are still explained', async () => {
    const first = await start();
    const address = await first.serve('kept', OPERATIONS);
    await fetch(`${address}/lamp/L1`, { headers: { authorization: 'Bearer s3cret', 'x-note': 'tab\tand \\ back' } });
    await fetch(`${address}/lamp/M1`, { method: 'GET' });
    expect(await first.stop()).toBe(0);
    running.delete(first);

    const second = await start();
    expect((await second.client.listServices()).map(({ name, revision }) => [name, revision])).toEqual([['kept', 1]]);
    const { calls } = await second.client.listCalls();
    expect(calls.map(({ url, case: name, stray, state }) => [url, name, stray, state])).toEqual([
      ['/lamp/M1', null, true, 'done'],
      ['/lamp/L1', 'lit', false, 'done'],
    ]);
    const detail = await second.client.readCall(calls[1]?.id ?? '');
    expect(detail.requestHeaders).toContain('Bearer (masked)');
    expect(detail.requestHeaders).toContain('tab\tand \\ back');
    expect(detail.responseBody.text).toBe('{"id":"L1"}');
    expect((await second.client.why(calls[1]?.id ?? '')).why.notes).toEqual(['seen L1']);
    // By the end of its id, as the command line shows it.
    const why = await second.client.why((calls[0]?.id ?? '').slice(-8));
    expect((await second.client.readCall((calls[0]?.id ?? '').slice(0, 23))).url).toBe('/lamp/M1');
    await expect(second.client.readCall('0123')).rejects.toMatchObject({ problem: { code: 'call-unknown' } });
    expect(why.why.ladder[0]?.cases[0]?.conditions[0]).toMatchObject({ place: 'path id', found: '"M1"', held: false });
    expect(JSON.stringify(await query('select detail from calls'))).not.toContain('s3cret');
  });

  test('a service whose file names no port is at the same address after a restart, whatever came beside it', async () => {
    const own = await createDatabase();
    const firstMockPort = await findFreePort();
    const startOwn = () => startTestUpsetter({ databaseUrl: own.url, firstMockPort });
    const first = await startOwn();
    const later = await first.serve('later', OPERATIONS);
    const gone = await first.serve('gone', OPERATIONS);
    const early = await first.serve('early', OPERATIONS);
    await first.client.removeService('gone');
    await first.stop();

    const second = await startOwn();
    const addresses = (await second.client.listServices()).map(({ name, address }) => [name, address]);
    expect(addresses).toEqual([
      ['early', early],
      ['later', later],
    ]);
    expect(await second.serve('another', OPERATIONS)).toBe(gone);
    await second.stop();
    await own.drop();
  });

  test('calls lie in the partition of their day', async () => {
    const upsetter = await start();
    await fetch(`${await upsetter.serve('daily', OPERATIONS)}/lamp/L1`);
    await upsetter.stop();
    const day = Math.floor(Date.now() / 86_400_000);
    expect(await query<{ count: string }>(`select count(*) from calls_day_${day}`)).not.toEqual([{ count: '0' }]);
    expect(await query<{ count: string }>('select count(*) from calls_other')).toEqual([{ count: '0' }]);
  });

  test('a list goes back over pages without gap or repetition, across memory and the store', async () => {
    const first = await start();
    const address = await first.serve('paged', OPERATIONS);
    for (let i = 0; i < 7; i++) await fetch(`${address}/lamp/L${i}`);
    await first.stop();
    running.delete(first);
    const second = await start();
    const again = (await second.client.readService('paged')).address ?? '';
    for (let i = 7; i < 12; i++) await fetch(`${again}/lamp/L${i}`);
    const urls: string[] = [];
    let before: string | undefined;
    do {
      const page = await second.client.listCalls({ service: 'paged', limit: 3, before });
      urls.push(...page.calls.map((call) => call.url));
      before = page.next ?? undefined;
    } while (before !== undefined);
    expect(urls).toEqual(Array.from({ length: 12 }, (_, i) => `/lamp/L${11 - i}`));
  });

  test('a mock whose port is taken at start is listed with its trouble, the others go on, and a save opens it again', async () => {
    const first = await start();
    const address = await first.serve('blocked', OPERATIONS);
    const { port } = new URL(address);
    await first.serve('blocked', OPERATIONS, `listen: { port: ${port} }`);
    await first.serve('free', OPERATIONS);
    await first.stop();
    running.delete(first);
    const taken = createServer().listen(Number(port), '127.0.0.1');
    await once(taken, 'listening');

    const second = await start();
    const services = await second.client.listServices();
    expect(services.find(({ name }) => name === 'blocked')).toMatchObject({
      address: null,
      trouble: `port ${port} on 127.0.0.1 is taken by another program`,
    });
    expect((await fetch(`${services.find(({ name }) => name === 'free')?.address}/lamp/L1`)).status).toBe(200);
    taken.close();
    await once(taken, 'close');
    const { file } = await second.client.readService('blocked');
    expect(await second.client.saveService('blocked', file)).toMatchObject({ address, trouble: null, changed: false });
  });

  test('a check sees calls that memory had to let go of, from the store', async () => {
    const upsetter = await startTestUpsetter({ databaseUrl: database.url, keptCalls: 10 });
    running.add(upsetter);
    const address = await upsetter.serve('searched', OPERATIONS);
    for (let i = 0; i < 40; i++) await fetch(`${address}/lamp/L${i}`, { headers: { 'upsetter-lane': 'searched' } });
    const checks =
      'checks:\n  - { check: all, of: searched/read, times: 40 }\n  - { check: one, of: searched/read, where: { path id: L3 }, times: 1 }\n';
    expect(await upsetter.client.runChecks({ file: checks, lane: 'searched' })).toMatchObject({ holds: true });
  });

  test('at start, services that name their port get it before the others take free ones', async () => {
    const first = await start();
    const address = await first.serve('zz-named', OPERATIONS);
    const { port } = new URL(address);
    await first.serve('zz-named', OPERATIONS, `listen: { port: ${port} }`);
    await first.serve('aa-any', OPERATIONS);
    await first.stop();
    running.delete(first);
    const second = await startTestUpsetter({ databaseUrl: database.url, firstMockPort: Number(port) });
    running.add(second);
    expect((await second.client.readService('zz-named')).address).toBe(address);
    expect((await second.client.readService('aa-any')).address).toMatch(/^http:/);
  });

  test('a removed service leaves its calls explained by the revision that answered them, also when it is made anew', async () => {
    const first = await start();
    const address = await first.serve('gone', OPERATIONS);
    await fetch(`${address}/lamp/M1`);
    await first.client.removeService('gone');
    expect((await first.client.listServices()).map(({ name }) => name)).not.toContain('gone');
    await first.serve('gone', OPERATIONS.replace('"L*"', '"Q*"'));
    expect((await first.client.listRevisions('gone')).map(({ revision, note }) => [revision, note])).toEqual([
      [3, null],
      [2, 'removed'],
      [1, null],
    ]);
    await first.stop();
    running.delete(first);

    const second = await start();
    const [call] = (await second.client.listCalls({ service: 'gone' })).calls;
    expect((await second.client.why(call?.id ?? '')).why.ladder[0]?.cases[0]?.conditions[0]).toMatchObject({
      wanted: 'like L*',
    });
  });

  test('a second process on the same database is refused, saying so', async () => {
    await start();
    await expect(start()).rejects.toMatchObject({ code: 'store-in-use' });
  });

  test('a database that cannot be reached is said to be so at start', async () => {
    await expect(start('postgres://nobody:x@127.0.0.1:1/none')).rejects.toMatchObject({
      code: 'store-unavailable',
      message: expect.stringContaining('ECONNREFUSED'),
    });
  });

  test('a call that stays in flight is written as such, and completed later', async () => {
    const upsetter = await start();
    const address = await upsetter.serve('slow', OPERATIONS, 'upsets: [{ upset: slow, delay: 2500ms }]');
    const answered = fetch(`${address}/lamp/L1`);
    const inFlight = () => query<{ state: string }>("select state from calls where service = 'slow'");
    await until(async () => (await inFlight())[0]?.state === 'in flight');
    await answered;
    await until(async () => (await inFlight())[0]?.state === 'done');
    expect(await inFlight()).toHaveLength(1);
  });
});

describe('while the database is lost', () => {
  test('mocks go on answering, calls wait and are written later, saves are refused and nothing is lost', async () => {
    const url = new URL(database.url);
    const proxy = await createCuttableProxy(Number(url.port));
    url.port = String(proxy.port);
    const upsetter = await start(String(url));
    const address = await upsetter.serve('away', OPERATIONS);
    const health = async () =>
      (await (await fetch(`${upsetter.running.address}/health`)).json()) as {
        storeAway: boolean;
        callsWaiting: number;
      };

    await proxy.cut();
    for (let i = 0; i < 5; i++) expect((await fetch(`${address}/lamp/L${i}`)).status).toBe(200);
    await until(async () => (await health()).storeAway);
    expect((await health()).callsWaiting).toBe(5);
    expect((await fetch(`${upsetter.running.address}/health/ready`)).status).toBe(503);
    expect((await upsetter.client.listCalls({ service: 'away' })).calls).toHaveLength(5);
    await expect(upsetter.serve('away', OPERATIONS.replace('lit', 'dark'))).rejects.toMatchObject({
      problem: { code: 'store-unavailable', status: 503 },
    });
    expect((await upsetter.client.readService('away')).revision).toBe(1);

    await proxy.mend();
    await until(async () => (await health()).callsWaiting === 0 && !(await health()).storeAway);
    expect(await query<{ count: string }>("select count(*) from calls where service = 'away'")).toEqual([
      { count: '5' },
    ]);
    await upsetter.serve('away', OPERATIONS.replace('lit', 'dark'));
    await upsetter.stop();
    await proxy.cut();
  });
});

describe('files beside', () => {
  test('of a service file are kept with its revision, and stay when only the text is saved', async () => {
    const first = await start();
    const operations = (file: string): string =>
      `read:\n  on: GET /chart\n  cases: [{ case: only, answer: { json: ${file} } }]`;
    const save = (file: string, files?: Record<string, { kind: 'text'; content: string }>) =>
      first.client.saveService('chart', fileOf('chart', operations(file)), files === undefined ? {} : { files });
    await save('./a.json', {
      './a.json': { kind: 'text', content: '{"depth":8.5}' },
      './unused.json': { kind: 'text', content: '1' },
    });
    expect(await save('./a.json')).toMatchObject({ revision: 1, changed: false });
    const deeper = { './a.json': { kind: 'text', content: '{"depth":9}' } } as const;
    expect(await save('./a.json', deeper)).toMatchObject({ revision: 2, changed: true });
    await expect(save('./b.json')).rejects.toThrow(/there is no file|mistake/);
    await first.stop();
    running.delete(first);
    const second = await start();
    const chart = await second.client.readService('chart');
    expect(chart.files).toEqual(deeper);
    expect(await (await fetch(`${chart.address}/chart`)).json()).toEqual({ depth: 9 });
    await second.client.removeService('chart');
  });
});
