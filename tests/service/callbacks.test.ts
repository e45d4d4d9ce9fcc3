import { createServer, type IncomingHttpHeaders, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { SentCallback } from '@upsetter/core/wire';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { createDatabase, type TestDatabase } from '../support/database.js';
import { startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';

interface Told {
  readonly path: string;
  readonly headers: IncomingHttpHeaders;
  readonly body: string;
  readonly atMs: number;
}

let upsetter: TestUpsetter;
let receiver: Server;
let receiverUrl: string;
let told: Told[] = [];
/** What the receiver answers with, one after the other; 204 then. */
let statuses: number[] = [];

beforeAll(async () => {
  upsetter = await startTestUpsetter();
  receiver = createServer((incoming, outgoing) => {
    const parts: Buffer[] = [];
    incoming.on('data', (part: Buffer) => parts.push(part));
    incoming.on('end', () => {
      const body = Buffer.concat(parts).toString();
      told.push({ path: incoming.url ?? '', headers: incoming.headers, body, atMs: Date.now() });
      outgoing.writeHead(statuses.shift() ?? 204).end();
    });
  }).listen(0, '127.0.0.1');
  await new Promise((resolve) => receiver.once('listening', resolve));
  receiverUrl = `http://127.0.0.1:${(receiver.address() as AddressInfo).port}`;
});
afterAll(async () => {
  await upsetter.stop();
  receiver.close();
  receiver.closeAllConnections();
});
beforeEach(() => {
  told = [];
  statuses = [];
});

const roster = (callback: string): string =>
  [
    'askPilot:',
    '  on: POST /pilots',
    '  cases:',
    '    - case: asked',
    '      answer: { status: 202, json: { pilot: "${next(\'pilot\')}" } }',
    `      then: [{ callback: ${callback} }]`,
  ].join('\n');
const USUAL = '{ to: "${call.json.notify}", json: { pilot: "${answer.json.pilot}" } }';

const ask = (address: string, notify: string, headers: Record<string, string> = {}) =>
  fetch(`${address}/pilots`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...headers },
    body: JSON.stringify({ notify }),
  });

/** The callbacks of the latest call of a service, once none of them waits any more. */
const settled = (service: string, from: TestUpsetter = upsetter): Promise<readonly SentCallback[]> =>
  until(async () => {
    const { calls } = await from.client.listCalls({ service });
    const { callbackList } = await from.client.readCall(calls[0]?.id ?? '');
    return callbackList.length > 0 && callbackList.every(({ state }) => state !== 'waiting') && callbackList;
  });

describe('a callback', () => {
  test('comes after the answer, with the lane and the trace of the call, and is kept with it', async () => {
    const address = await upsetter.serve('roster', roster(USUAL));
    const trace = '00-0af7651916cd43dd8448eb211c80319c-b7ad6b7169203331-01';
    const answer = await ask(address, `${receiverUrl}/told?a=1`, { 'upsetter-lane': 'red', traceparent: trace });
    expect(await answer.json()).toEqual({ pilot: 1 });
    const [callback] = await settled('roster');
    expect(callback).toMatchObject({ state: 'arrived', method: 'POST', tries: [{ status: 204, trouble: null }] });
    expect(told).toMatchObject([
      {
        path: '/told?a=1',
        body: '{"pilot":1}',
        headers: { 'content-type': 'application/json', 'upsetter-lane': 'red', traceparent: trace },
      },
    ]);
    expect((await upsetter.client.listCalls({ service: 'roster' })).calls[0]).toMatchObject({
      callbacks: 1,
      callbacksFailed: 0,
    });
  });

  test('waits as long as it is to, and is tried again with growing gaps until it arrives', async () => {
    statuses = [503, 500];
    const address = await upsetter.serve(
      'retrying',
      roster('{ to: "${call.json.notify}", text: asked, after: 100ms, tries: 4, gap: 60ms }'),
    );
    const startedMs = Date.now();
    await ask(address, receiverUrl);
    const [callback] = await settled('retrying');
    expect(callback?.tries.map(({ status }) => status)).toEqual([503, 500, 204]);
    const [first = 0, second = 0, third = 0] = told.map(({ atMs }) => atMs);
    expect(first - startedMs).toBeGreaterThanOrEqual(99);
    expect(second - first).toBeGreaterThanOrEqual(59);
    expect(third - second).toBeGreaterThanOrEqual(119);
  });

  test('that never arrives has failed, and says why each time', async () => {
    const address = await upsetter.serve('failing', roster('{ to: "${call.json.notify}", tries: 2, gap: 1ms }'));
    const { port } = receiver.address() as AddressInfo;
    const closed = createServer().listen(0, '127.0.0.1');
    await new Promise((resolve) => closed.once('listening', resolve));
    const gone = (closed.address() as AddressInfo).port;
    await new Promise((resolve) => closed.close(resolve));
    expect(gone).not.toBe(port);
    await ask(address, `http://127.0.0.1:${gone}/`);
    const [callback] = await settled('failing');
    expect(callback).toMatchObject({ state: 'failed', tries: [{ status: null }, { status: null }] });
    expect(callback?.tries[1]?.trouble).toContain('ECONNREFUSED');
    expect((await upsetter.client.listCalls({ service: 'failing' })).calls[0]?.callbacksFailed).toBe(1);
  });

  test.each([
    [
      'http://harbour.example/told',
      'callbacks may not go to harbour.example: only loopback and hosts named with --allow',
    ],
    ['file:///etc/hosts', 'file:///etc/hosts is no http or https URL'],
    ['nowhere', 'nowhere is no http or https URL'],
  ])('to %s is not made, and not tried again', async (notify, trouble) => {
    const address = await upsetter.serve('refusing', roster('{ to: "${call.json.notify}", tries: 3 }'));
    await ask(address, notify);
    expect(await settled('refusing')).toMatchObject([{ state: 'failed', tries: [{ trouble }] }]);
  });

  test('that leads back to its own mock ends after ten', async () => {
    const address = await upsetter.serve(
      'circling',
      roster('{ to: "${call.json.notify}", json: { notify: "${call.json.notify}" } }'),
    );
    await ask(address, `${address}/pilots`);
    const last = await until(async () => {
      const { calls } = await upsetter.client.listCalls({ service: 'circling' });
      return calls.length === 11 && calls[0]?.id;
    });
    const given = await until(async () => {
      const { callbackList } = await upsetter.client.readCall(last);
      return callbackList[0]?.state === 'given up' && callbackList;
    });
    expect(given).toMatchObject([{ tries: [{ trouble: 'callbacks led to callbacks 10 times' }] }]);
  });

  test('is given up when its service is removed', async () => {
    const address = await upsetter.serve('leaving', roster('{ to: "${call.json.notify}", after: 1h }'));
    await ask(address, receiverUrl);
    const { calls } = await upsetter.client.listCalls({ service: 'leaving' });
    await upsetter.client.removeService('leaving');
    const { callbackList } = await upsetter.client.readCall(calls[0]?.id ?? '');
    expect(callbackList).toMatchObject([{ state: 'given up', tries: [] }]);
    expect(told).toEqual([]);
  });
});

test('callbacks of older calls are read from the database, their secrets masked', async () => {
  const database: TestDatabase = await createDatabase();
  const lasting = await startTestUpsetter({ databaseUrl: database.url, keptCalls: 1 });
  const secret = '{ to: "${call.json.notify}", headers: { authorization: "Bearer pilot-secret" }, after: 50ms }';
  const address = await lasting.serve('roster', roster(secret));
  await ask(address, receiverUrl);
  await settled('roster', lasting);
  const { calls } = await lasting.client.listCalls({ service: 'roster' });
  await ask(address, receiverUrl);
  await ask(address, receiverUrl);
  const read = await until(async () => {
    const own = await lasting.client.readCall(calls[0]?.id ?? '');
    return own.callbackList[0]?.state === 'arrived' && own;
  });
  expect(JSON.stringify(read.callbackList)).not.toContain('pilot-secret');
  expect(told[0]?.headers.authorization).toBe('Bearer pilot-secret');
  await lasting.stop();
  await database.drop();
});
