import { Agent, request } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createServer } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { findFreePort } from '../support/free-port.js';
import { fileOf, startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

let upsetter: TestUpsetter;

beforeAll(async () => {
  upsetter = await startTestUpsetter();
});
afterAll(() => upsetter.stop());

const answering = (text: string): string =>
  `read:\n  on: GET /lamp\n  cases: [{ case: only, answer: { json: { is: "${text}", n: "\${next('n')}" } } }]`;
const readText = async (address: string): Promise<string> =>
  ((await (await fetch(`${address}/lamp`)).json()) as { is: string }).is;

/** One call over the connections of an agent; its body. A call that fails rejects. */
function ask(url: string, agent: Agent): Promise<string> {
  return new Promise((resolve, reject) => {
    const outgoing = request(url, { agent }, (response) => {
      let body = '';
      response.setEncoding('utf8').on('data', (text) => (body += text));
      response.on('end', () => resolve(body)).on('error', reject);
    });
    outgoing.on('error', reject).end();
  });
}

describe('a saved change', () => {
  test('answers the very next call, while 200 connections call and nothing fails', async () => {
    const address = await upsetter.serve('swap', answering('r0'));
    const agent = new Agent({ keepAlive: true, maxSockets: 200 });
    const seen = new Set<number>();
    for (let i = 1; i <= 100; i++) {
      const calls = Array.from({ length: 200 }, async () => {
        const { is } = JSON.parse(await ask(`${address}/lamp`, agent)) as { is: string };
        return Number(is.slice(1));
      });
      await upsetter.serve('swap', answering(`r${i}`));
      expect(await readText(address)).toBe(`r${i}`);
      for (const revision of await Promise.all(calls)) {
        // Of the revision before, or of the one that came while it ran.
        expect([i - 1, i]).toContain(revision);
        seen.add(revision);
      }
    }
    agent.destroy();
    expect(seen.size).toBeGreaterThan(50);
  });

  test('keeps the counters whose names remain', async () => {
    const address = await upsetter.serve('counting', answering('a'));
    await fetch(`${address}/lamp`);
    await upsetter.serve('counting', answering('b'));
    expect(await (await fetch(`${address}/lamp`)).json()).toEqual({ is: 'b', n: 2 });
  });

  test('that is the same makes no revision', async () => {
    await upsetter.serve('same', answering('a'));
    expect(await upsetter.client.saveService('same', fileOf('same', answering('a')))).toMatchObject({
      changed: false,
      revision: 1,
    });
  });

  test('moves to another port when the file says so, and back', async () => {
    const first = await upsetter.serve('moving', answering('a'));
    const free = await findFreePort();
    const second = await upsetter.serve('moving', answering('a'), `listen: { port: ${free} }`);
    expect(second).toBe(`http://127.0.0.1:${free}`);
    expect(await readText(second)).toBe('a');
    await expect(fetch(`${first}/lamp`)).rejects.toThrow();
  });
});

describe('a save that cannot be', () => {
  test('is refused with line and column, and the old revision goes on answering', async () => {
    const address = await upsetter.serve('refused', answering('good'));
    const save = upsetter.client.saveService('refused', fileOf('refused', 'read:\n  on: GET /lamp\n  caess: []'));
    await expect(save).rejects.toMatchObject({
      problem: {
        code: 'file-refused',
        status: 422,
        problems: expect.arrayContaining([expect.objectContaining({ line: 6, column: 5, nearest: 'cases' })]),
      },
    });
    expect(await readText(address)).toBe('good');
  });

  test('is refused when somebody saved in between', async () => {
    await upsetter.serve('shared', answering('a'));
    await upsetter.serve('shared', answering('b'));
    await expect(
      upsetter.client.saveService('shared', fileOf('shared', answering('c')), { basedOn: 1 }),
    ).rejects.toMatchObject({ problem: { code: 'changed-since', status: 412 } });
  });

  test('is refused when the port is taken, and changes nothing', async () => {
    const address = await upsetter.serve('staying', answering('here'));
    const taken = createServer().listen(0, '127.0.0.1');
    await new Promise((resolve) => taken.once('listening', resolve));
    const { port } = taken.address() as AddressInfo;
    await expect(upsetter.serve('staying', answering('there'), `listen: { port: ${port} }`)).rejects.toMatchObject({
      problem: { code: 'port-in-use', detail: `port ${port} on 127.0.0.1 is taken by another program` },
    });
    expect(await readText(address)).toBe('here');
    taken.close();
  });

  test('is refused under the name of another service', async () => {
    await expect(upsetter.client.saveService('other', fileOf('mine', answering('a')))).rejects.toMatchObject({
      problem: { code: 'request-refused' },
    });
  });
});

describe('a large service', () => {
  const SHELVES = 800;
  const shelves = (answer: string): string =>
    [
      ...Array.from({ length: SHELVES }, (_, i) => `readShelf${i}:\n  on: GET /shelves/${i}\n  cases: [${answer}]`),
      'readLabel:\n  on: GET /label\n  cases: [{ case: only, answer: ./label.json }]',
    ].join('\n');
  const holding = '{ case: only, answer: { json: { shelf: "${call.path}", jars: 12, of: [pears, plums, quinces] } } }';
  const contract = JSON.stringify({
    openapi: '3.1.0',
    info: { title: 'Shelves', version: '1' },
    paths: { '/label': { get: { responses: { 200: { description: 'ok' } } } } },
  });
  const besides = (label: string) => ({
    './label.json': { kind: 'text' as const, content: JSON.stringify({ label }) },
    './shelves.openapi.json': { kind: 'text' as const, content: contract },
    './not-asked-for.json': { kind: 'text' as const, content: '{}' },
  });
  const text = (answer: string): string =>
    fileOf('shelves', shelves(answer), 'contract: ./shelves.openapi.json').replace(
      'answer: ./label.json',
      'answer: { json: ./label.json }',
    );

  test('is saved like any other, with the files it refers to and its contract', async () => {
    const saved = await upsetter.client.saveService('shelves', text(holding), { files: besides('jam') });
    expect(await (await fetch(`${saved.address}/shelves/${SHELVES - 1}`)).json()).toMatchObject({ jars: 12 });
    expect(await (await fetch(`${saved.address}/label`)).json()).toEqual({ label: 'jam' });
    const { files } = await upsetter.client.readService('shelves');
    expect(Object.keys(files).sort()).toEqual(['./label.json', './shelves.openapi.json']);
    expect((await upsetter.client.readContractReport('shelves'))?.unknown).toHaveLength(SHELVES);
  });

  test('that has a mistake is refused with its line, however far down; others are saved meanwhile', async () => {
    const broken = text(holding).replace(/(\/shelves\/799[\s\S]*?)jars: 12/, '$1jars: "${lett.jars}"');
    const refused = upsetter.client.saveService('shelves', broken, { files: besides('jam') }).then(
      () => null,
      (error: unknown) => error,
    );
    const address = await upsetter.serve('small-beside', answering('quick'));
    expect(await readText(address)).toBe('quick');
    expect(await refused).toMatchObject({
      problem: {
        code: 'file-refused',
        problems: [expect.objectContaining({ message: expect.stringContaining('did you mean `let`'), line: 2403 })],
      },
    });
  });
});

describe('one answer, edited in place', () => {
  test('is a revision that answers the next call', async () => {
    const address = await upsetter.serve('edited', answering('before'));
    expect(await upsetter.client.saveAnswer('edited', 'read', 'only', 'json: { is: after }')).toMatchObject({
      revision: 2,
    });
    expect(await readText(address)).toBe('after');
    expect((await upsetter.client.listRevisions('edited'))[0]).toMatchObject({
      revision: 2,
      note: 'answer of read / only',
    });
  });

  test('is refused with the mistake when it does not compile', async () => {
    await upsetter.serve('edited2', answering('before'));
    await expect(upsetter.client.saveAnswer('edited2', 'read', 'only', 'json: "${cal.id}"')).rejects.toMatchObject({
      problem: {
        code: 'file-refused',
        problems: [expect.objectContaining({ message: 'nothing is called `cal`; did you mean `call`?' })],
      },
    });
  });
});

test('a removed service no longer listens; its calls stay in the log', async () => {
  const address = await upsetter.serve('leaving', answering('a'));
  await fetch(`${address}/lamp`);
  await upsetter.client.removeService('leaving');
  await expect(fetch(`${address}/lamp`)).rejects.toThrow();
  await expect(upsetter.client.readService('leaving')).rejects.toMatchObject({
    problem: { code: 'service-unknown', status: 404 },
  });
  expect((await upsetter.client.listCalls({ service: 'leaving' })).calls).toHaveLength(1);
});

test('a save tells cases that no call gets to, and paths that two operations take; the service shows them', async () => {
  const file = fileOf(
    'noted',
    `
readBerth:
  on: GET /berths/{id}/free
  cases:
    - { case: north, when: { path id: { like: "N*" } }, answer: { none: true } }
    - { case: seven, when: { path id: N7 }, answer: { none: true } }
    - { case: any, answer: { none: true } }
    - { case: late, when: { query a: 1 }, answer: { none: true } }
readAll: { on: "GET /berths/all/{what}", cases: [] }
`,
  );
  const { notes } = await upsetter.client.saveService('noted', file);
  expect(notes.map(({ case: name, message }) => `${name}: ${message}`)).toEqual([
    'seven: never answers: north stands before it, and its conditions hold whenever these do',
    'late: never answers: any stands before it, and it takes whatever comes',
    'null: /berths/all/free is a path of readBerth and of readAll: readAll gets it, its literal comes first',
  ]);
  const { operationList } = await upsetter.client.readService('noted');
  expect(operationList[0]?.cases.map(({ unreachable }) => unreachable !== null)).toEqual([false, true, false, true]);
});

describe('rows that a lane has changed', () => {
  const file = (rows: string, key = 'no') =>
    fileOf(
      'keepers',
      '{}',
      `datasets: { keepers: { key: ${key}, rows: ${rows} } }\nresources: { keepers: { at: /keepers } }\n`,
    ).replace('operations:\n  {}', 'operations: {}');
  const FIRST = '[{ no: 1, name: Ada }]';
  const SECOND = '[{ no: 1, name: Ada }, { no: 2, name: Tom }]';

  test('stay when the file has others, and the reply names the lane; a reset begins with those of the file', async () => {
    const { address } = await upsetter.client.saveService('keepers', file(FIRST));
    const namesIn = async (lane: string) => {
      const response = await fetch(`${address}/keepers`, { headers: { 'upsetter-lane': lane } });
      return ((await response.json()) as { items: { name: string }[] }).items.map(({ name }) => name);
    };
    const headers = { 'upsetter-lane': 'night' };
    await fetch(`${address}/keepers/1`, { method: 'PATCH', headers, body: '{"name":"Una"}' });
    const saved = await upsetter.client.saveService('keepers', file(SECOND));
    expect(saved.keptRows).toEqual([{ lane: 'night', dataset: 'keepers' }]);
    expect([await namesIn('night'), await namesIn('main')]).toEqual([['Una'], ['Ada', 'Tom']]);
    const same = await upsetter.client.saveService('keepers', `${file(SECOND)}title: Keepers\n`);
    expect(same.keptRows).toEqual([]);
    const again = await upsetter.client.saveService('keepers', file(SECOND), { reset: true });
    expect(again.keptRows).toEqual([]);
    expect(await namesIn('night')).toEqual(['Ada', 'Tom']);
  });

  test('are let go of when they are told apart by another field since', async () => {
    const { address } = await upsetter.client.saveService('keepers', file(FIRST), { reset: true });
    await fetch(`${address}/keepers/1`, { method: 'DELETE' });
    const saved = await upsetter.client.saveService('keepers', file(FIRST, 'name'));
    expect(saved.keptRows).toEqual([]);
    expect((await fetch(`${address}/keepers/Ada`)).status).toBe(200);
  });
});
