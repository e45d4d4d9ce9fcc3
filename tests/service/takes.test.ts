import { createAsk, FIRST_SESSION, playBookingSession, SECOND_SESSION } from '@upsetter/demo/sessions';
import { createBerthDesk } from '@upsetter/demo/world';
import knexFactory from 'knex';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { createDatabase, type TestDatabase } from '../support/database.js';
import { startRealService } from '../support/real-service.js';
import { startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';
import { cookieRoom, letterRoom } from '../worlds/letter-room.js';

let database: TestDatabase;
const closing: (() => unknown)[] = [];
beforeAll(async () => {
  database = await createDatabase();
});
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close();
});
afterAll(() => database.drop());

async function startDesk(): Promise<{ url: string; stop: () => Promise<void> }> {
  const app = createBerthDesk();
  const url = await app.listen({ host: '127.0.0.1', port: 0 });
  return { url, stop: () => app.close() };
}

async function start(databaseUrl: string | null): Promise<TestUpsetter> {
  const upsetter = await startTestUpsetter({ databaseUrl });
  closing.push(() => upsetter.stop());
  return upsetter;
}

describe.each([
  ['memory', () => null],
  ['PostgreSQL', () => database.url],
])('a take in %s', (home, url) => {
  const name = `booking-${home.toLowerCase()}`;

  test('hears a session through its relay, and its draft replays it, and another, without the real service', async () => {
    const { client } = await start(url());
    const desk = await startDesk();
    const take = await client.startTake({ name, from: desk.url });
    await playBookingSession(createAsk(take.address ?? ''), FIRST_SESSION);
    expect(await client.readTake(name)).toMatchObject({ state: 'open', exchanges: 29 });
    const stopped = await client.stopTake(name);
    await desk.stop();
    expect(stopped).toMatchObject({ state: 'closed', exchanges: 29, address: null, trouble: null });
    expect(stopped.masked.map(({ place }) => place)).toEqual(['json token', 'header authorization']);
    await expect(fetch(take.address ?? '')).rejects.toThrow();

    const draft = await client.draftTake(name, { service: `desk-${home.toLowerCase()}` });
    expect(draft.fidelity).toMatchObject({ exchanges: 29, asHeard: 29, differences: [] });
    expect(draft.decisions.map(({ id }) => id)).toContain('records:bookings');
    const { address } = await client.saveService(draft.service, draft.text);
    await playBookingSession(createAsk(address ?? ''), SECOND_SESSION);
  });

  test.each([letterRoom, cookieRoom])(
    'tells callers apart though their credentials are masked ($habits)',
    async (world) => {
      const { client } = await start(url());
      const room = world.create();
      const take = await client.startTake({ name: 'letters', from: await room.listen({ host: '127.0.0.1', port: 0 }) });
      await world.first(createAsk(take.address ?? ''));
      expect((await client.stopTake('letters')).masked).not.toEqual([]);
      await room.close();
      const draft = await client.draftTake('letters', { service: 'letter-room', level: 'alive' });
      expect(draft.fidelity).toMatchObject({ differences: [] });
      const { address } = await client.saveService(draft.service, draft.text);
      await world.second(createAsk(address ?? ''));
      await client.removeTake('letters');
    },
  );

  test('holds no secret in clear, nor does its export', async () => {
    const { client } = await start(url());
    const service = await startRealService((_incoming, outgoing) =>
      outgoing.end(JSON.stringify({ handle: 's3cretHandle99', at: Date.now() })),
    );
    closing.push(service.stop);
    const take = await client.startTake({ name: `secret-${name}`, from: service.url, masks: ['x-gauge'] });
    await fetch(`${take.address}/one`);
    // Only now it shows that the handle is a secret: what was heard before is masked, too.
    await fetch(`${take.address}/two`, { headers: { 'X-Gauge': 's3cretHandle99' } });
    await client.stopTake(take.name);
    const kept = JSON.stringify([
      await client.readExchange(take.name, 0),
      await client.readExchange(take.name, 1),
      await client.readHar(take.name),
    ]);
    expect(kept).not.toContain('s3cretHandle99');
    expect(kept).toMatch(/"X-Gauge","[a-z]\d[a-z]{4}[A-Z][a-z]{5}\d\d"/);
    const found = await client.listExchanges(take.name, 0, 1);
    expect([found.exchanges.map(({ url: path }) => path), found.next]).toEqual([['/two'], 1]);
  });

  test('is refused when it cannot be, and says what to do', async () => {
    const { client } = await start(url());
    await client.startTake({ name: `twice-${name}`, from: 'http://127.0.0.1:1' });
    const refused = (promise: Promise<unknown>, code: string) =>
      expect(promise).rejects.toMatchObject({ problem: { code } });
    await refused(client.startTake({ name: `twice-${name}`, from: 'http://127.0.0.1:1' }), 'take-known');
    await refused(client.startTake({ name: 'no-url', from: 'harbour' }), 'request-refused');
    await refused(client.readTake('nobody'), 'take-unknown');
    await refused(client.draftTake(`twice-${name}`), 'file-unreadable');
    await client.stopTake(`twice-${name}`);
    await refused(client.stopTake(`twice-${name}`), 'take-closed');
    await refused(client.readExchange(`twice-${name}`, 3), 'take-unknown');
    await client.removeTake(`twice-${name}`);
    await refused(client.readTake(`twice-${name}`), 'take-unknown');
  });
});

test('a take outlives the process; one that was open is closed, and says so', async () => {
  const first = await startTestUpsetter({ databaseUrl: database.url });
  const desk = await startDesk();
  closing.push(desk.stop);
  const take = await first.client.startTake({ name: 'outliving', from: desk.url });
  await fetch(`${take.address}/berths`);
  await first.stop();
  const knex = knexFactory({ client: 'pg', connection: database.url, pool: { min: 0, max: 1 } });
  await knex('takes').where({ name: 'outliving' }).update({ state: 'open' });
  await knex.destroy();
  const { client } = await start(database.url);
  expect(await client.readTake('outliving')).toMatchObject({
    state: 'closed',
    exchanges: 1,
    trouble: 'the service ended while this take was open',
  });
});

test('several takes are put together in the order of time', async () => {
  const { client } = await start(null);
  const desk = await startDesk();
  closing.push(desk.stop);
  for (const [name, path] of [
    ['early', '/berths/N7'],
    ['late', '/berths/free'],
  ] as const) {
    const take = await client.startTake({ name, from: desk.url });
    await fetch(take.address + path);
    await client.stopTake(name);
  }
  const draft = await client.draftTake('late', { with: ['early'], service: 'both' });
  expect(draft.text.match(/on: GET .*/g)).toEqual(['on: GET /berths/{berthId}', 'on: GET /berths/free']);
});

describe('strays of a mock', () => {
  const OPERATIONS = 'notices:\n  on: GET /notices\n  cases: [{ case: own, answer: { text: mocked } }]';

  test('are relayed to the upstream, and the call says so', async () => {
    const { client, serve } = await start(null);
    const service = await startRealService((incoming, outgoing) => {
      incoming.on('data', () => {});
      incoming.on('end', () =>
        outgoing.writeHead(201, { 'x-real': 'yes' }).end(`real ${incoming.method} ${incoming.url}`),
      );
    });
    closing.push(service.stop);
    const address = await serve('relaying', OPERATIONS, `upstream: ${service.url}\nstrays: relay`);
    expect(await (await fetch(`${address}/notices`)).text()).toBe('mocked');
    const relayed = await fetch(`${address}/tides?day=1`, { method: 'POST', body: 'ebb' });
    expect([relayed.status, relayed.headers.get('x-real'), await relayed.text()]).toEqual([
      201,
      'yes',
      'real POST /tides?day=1',
    ]);
    const [call] = await until(async () => {
      const { calls } = await client.listCalls({ service: 'relaying', strays: true });
      return calls[0]?.state === 'done' ? calls : undefined;
    });
    expect(call).toMatchObject({ stray: true, answeredBy: 'upstream', status: 201 });
    expect((await client.readCall(call?.id ?? '')).responseBody.text).toBe('real POST /tides?day=1');
    expect(await client.listTakes()).toEqual([]);

    // One that was relayed can be kept afterwards; one that a case answered cannot.
    expect(await client.keepCall(call?.id ?? '')).toMatchObject({ name: 'relaying', source: 'service', exchanges: 1 });
    expect(await client.readExchange('relaying', 0)).toMatchObject({
      method: 'POST',
      url: '/tides?day=1',
      requestBody: 'ebb',
      status: 201,
    });
    const { calls } = await client.listCalls({ service: 'relaying' });
    const own = calls.find(({ stray }) => !stray);
    await expect(client.keepCall(own?.id ?? '')).rejects.toMatchObject({ problem: { code: 'wrong-use' } });
  });

  test('are recorded in a take of their service, which can be stopped and drafted', async () => {
    const { client, serve } = await start(null);
    const desk = await startDesk();
    closing.push(desk.stop);
    const address = await serve('recording', OPERATIONS, `upstream: ${desk.url}\nstrays: record`);
    await fetch(`${address}/notices`);
    await fetch(`${address}/berths/N7`);
    await fetch(`${address}/berths/free`);
    await until(async () => (await client.listTakes())[0]?.exchanges === 2);
    expect(await client.stopTake('recording')).toMatchObject({ source: 'service', upstream: desk.url, exchanges: 2 });
    expect((await client.draftTake('recording')).fidelity?.asHeard).toBe(2);
    await fetch(`${address}/berths/S1`);
    await until(async () =>
      (await client.listTakes()).some(({ name, exchanges }) => name === 'recording-2' && exchanges === 1),
    );
  });

  test('go only where they may, and only when it is said where', async () => {
    const { serve } = await start(null);
    await expect(serve('far', OPERATIONS, 'upstream: http://192.0.2.1\nstrays: relay')).rejects.toMatchObject({
      problem: { code: 'upstream-refused' },
    });
    await expect(serve('nowhere', OPERATIONS, 'strays: record')).rejects.toMatchObject({
      problem: { code: 'file-refused' },
    });
  });
});
