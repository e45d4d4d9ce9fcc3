import { CallRecord, RequestView } from '@upsetter/core';
import { createCallWriter, createPostgresStore, type Store } from '@upsetter/store';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type CuttableProxy, createCuttableProxy } from '../support/cuttable-proxy.js';
import { createDatabase, type TestDatabase } from '../support/database.js';
import { until } from '../support/upsetter.js';

let database: TestDatabase;
let proxy: CuttableProxy;
let store: Store;
let made = 0;

beforeAll(async () => {
  database = await createDatabase();
  const url = new URL(database.url);
  proxy = await createCuttableProxy(Number(url.port));
  url.port = String(proxy.port);
  store = createPostgresStore({ url: String(url), onTrouble: () => {} });
  await store.start();
});
afterAll(async () => {
  await store.stop();
  await proxy.cut();
  await database.drop();
});

/** A call with everything a column could stumble over. */
function makeRecord(path: string, isComplete = true): CallRecord {
  const nowMs = Date.now();
  const id = `${nowMs
    .toString(16)
    .padStart(12, '0')
    .replace(/^(.{8})/, '$1-')}-7000-8000-${String(made++).padStart(12, '0')}`;
  const request = new RequestView(id, 'POST', path, ['x-odd', 'tab\t, back \\ slash, \\N'], nowMs);
  request.body = Buffer.from([0, 1, 92, 10, 255]);
  const record = new CallRecord(request, 'written', null, 1, null);
  record.caseName = 'a "quoted"\ncase\\';
  record.responseBody = 'Æ\t\\x\n';
  record.status = 200;
  if (isComplete) record.state = 'done';
  return record;
}

const repository = () =>
  store.calls ??
  (() => {
    throw new Error('no calls kept');
  })();
const list = async (service = 'written') =>
  repository().list({
    service,
    operation: null,
    lane: null,
    straysOnly: false,
    findingsOnly: false,
    before: null,
    limit: 1000,
  });

describe('the call writer', () => {
  test('writes every column so that it reads back the same', async () => {
    const writer = createCallWriter(repository(), { mostWaiting: 100, onTrouble: () => {} });
    const record = makeRecord('/odd?a=%09\\N');
    writer.add(record);
    expect(await writer.drain(5_000)).toBe(0);
    const [read] = await list();
    expect(read?.request.target).toBe('/odd?a=%09\\N');
    expect(read?.request.rawHeaders).toEqual(record.request.rawHeaders);
    expect(Buffer.from(read?.request.body ?? [])).toEqual(record.request.body);
    expect(read?.caseName).toBe(record.caseName);
    expect(String(read?.responseBody)).toBe(record.responseBody);
    expect(read?.state).toBe('done');
  });

  test('holds what cannot be written, gives up the oldest beyond its bound, and says how many', async () => {
    const troubles: string[] = [];
    const writer = createCallWriter(repository(), { mostWaiting: 40, onTrouble: (message) => troubles.push(message) });
    await proxy.cut();
    for (let i = 0; i < 50; i++) writer.add(makeRecord(`/bounded/${i}`));
    await until(async () => writer.state().storeAway);
    const { waiting, givenUp } = writer.state();
    expect(givenUp).toBeGreaterThan(0);
    expect(waiting).toBeLessThanOrEqual(40);
    expect(waiting + givenUp).toBe(50);
    expect(troubles.join('\n')).toContain('calls were given up');

    await proxy.mend();
    await until(async () => writer.state().waiting === 0);
    expect(writer.state().storeAway).toBe(false);
    expect((await list()).filter((record) => record.request.path.startsWith('/bounded/'))).toHaveLength(waiting);
    expect(troubles.at(-1)).toContain('the store is back');
  });

  test('gives up the one call that the store refuses, and writes the others', async () => {
    const troubles: string[] = [];
    const writer = createCallWriter(repository(), { mostWaiting: 100, onTrouble: (message) => troubles.push(message) });
    const refused = new CallRecord(
      new RequestView('no uuid', 'GET', '/refused', [], Date.now()),
      'written',
      null,
      1,
      null,
    );
    refused.state = 'done';
    for (const record of [makeRecord('/before'), refused, makeRecord('/after')]) writer.add(record);
    expect(await writer.drain(5_000)).toBe(0);
    expect(writer.state()).toMatchObject({ givenUp: 1, storeAway: false });
    expect((await list()).map((record) => record.request.path)).toEqual(expect.arrayContaining(['/before', '/after']));
    expect(troubles.join()).toContain('the call no uuid cannot be written');
  });

  test('draining writes what is complete and leaves what is in flight', async () => {
    const writer = createCallWriter(repository(), { mostWaiting: 100, onTrouble: () => {} });
    const open = makeRecord('/open', false);
    writer.add(open);
    writer.add(makeRecord('/closed'));
    expect(await writer.drain(5_000)).toBe(0);
    const paths = (await list()).map((record) => record.request.path);
    expect(paths).toContain('/closed');
    expect(paths).not.toContain('/open');
    open.state = 'done';
    expect(await writer.drain(5_000)).toBe(0);
    expect((await list()).map((record) => record.request.path)).toContain('/open');
  });
});
