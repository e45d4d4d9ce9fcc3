import { execFile } from 'node:child_process';
import { mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createDatabase, type TestDatabase } from '../support/database.js';
import { startRealService } from '../support/real-service.js';
import { startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';

const CONTRACT = (version: string, more = '') => `
openapi: 3.1.0
info: { title: Lamps, version: "${version}" }
paths:
  /lamps: { get: { operationId: listLamps, responses: { "200": { description: ok, content: { application/json: { schema: { $ref: "parts/lamp.yaml#/Lamp" } } } } } } }
${more}`;
const LAMP = (colours: string) =>
  `Lamp: { type: object, required: [colour], properties: { colour: { enum: [${colours}] } } }\n`;
const OIL = '  /oil: { get: { operationId: readOil, responses: { "204": { description: ok } } } }\n';

let database: TestDatabase;
let upsetter: TestUpsetter;
let folder: string;
beforeAll(async () => {
  database = await createDatabase();
  upsetter = await startTestUpsetter({ databaseUrl: database.url });
  folder = await mkdtemp(join(tmpdir(), 'upsetter-feeds-'));
});
afterAll(async () => {
  await upsetter.stop();
  await database.drop();
  await rm(folder, { recursive: true });
});

async function write(directory: string, version: string, colours: string, more = ''): Promise<void> {
  await mkdir(join(directory, 'parts'), { recursive: true });
  await writeFile(join(directory, 'lamps.yaml'), CONTRACT(version, more));
  await writeFile(join(directory, 'parts/lamp.yaml'), LAMP(colours));
}

const run = promisify(execFile);
const git = (directory: string, ...args: string[]) =>
  run('git', ['-C', directory, '-c', 'user.name=Marit', '-c', 'user.email=marit@harbour.example', ...args]);

async function ask(service: string, path: string): Promise<unknown> {
  const { address } = await upsetter.client.readService(service);
  const answer = await fetch(`${address}${path}`);
  return answer.status === 200 ? answer.json() : answer.status;
}

describe('a feed of a file', () => {
  test('makes the service, and brings it to each newer version: what breaks callers is told, hand edits stay', async () => {
    const home = join(folder, 'file');
    await write(home, '1', 'red, green');
    const { client } = upsetter;
    await client.addFeed({ name: 'lamps', service: 'lamps', source: { kind: 'file', path: join(home, 'lamps.yaml') } });
    expect(await client.runFeed('lamps')).toMatchObject({ outcome: 'created', service: 'lamps', revision: 1 });
    expect(await ask('lamps', '/lamps')).toEqual({ colour: 'red' });
    expect(await client.runFeed('lamps')).toMatchObject({ outcome: 'same', revision: null });

    await write(home, '2', 'green', OIL);
    expect(await client.runFeed('lamps')).toMatchObject({
      outcome: 'merged',
      revision: 2,
      changes: [
        { on: 'GET /lamps', at: '200 $.colour', message: 'can no longer be red', breaks: true },
        { on: 'GET /oil', what: 'added', breaks: false },
      ],
      merged: { added: ['readOil'], changed: ['listLamps / as documented'] },
    });
    expect(await ask('lamps', '/lamps')).toEqual({ colour: 'green' });
    expect(await ask('lamps', '/oil')).toBe(204);

    const { file } = await client.readService('lamps');
    await client.saveService('lamps', file.replace('colour: green', 'colour: "by hand"'));
    await write(home, '3', 'blue', OIL);
    expect((await client.runFeed('lamps')).merged).toMatchObject({ conflicts: ['listLamps / as documented'] });
    expect(await ask('lamps', '/lamps')).toEqual({ colour: 'by hand' });
    const [feed] = await client.listFeeds();
    expect(feed?.runs.map(({ outcome, revision }) => [outcome, revision])).toEqual([
      ['merged', 4],
      ['merged', 2],
      ['created', 1],
    ]);
  });

  test('tells what failed, and keeps what it had; the next version is fetched again', async () => {
    const home = join(folder, 'broken');
    await write(home, '1', 'red');
    const { client } = upsetter;
    const source = { kind: 'file' as const, path: join(home, 'lamps.yaml') };
    await client.addFeed({ name: 'broken', service: 'broken', source });
    await client.runFeed('broken');
    await writeFile(source.path, 'openapi: 3.1.0\na: b: c\n');
    const failed = await client.runFeed('broken');
    expect(failed).toMatchObject({ outcome: 'failed', message: expect.stringMatching(/line 2/) });
    expect(await ask('broken', '/lamps')).toEqual({ colour: 'red' });
    await write(home, '1', 'green');
    expect(await client.runFeed('broken')).toMatchObject({ outcome: 'merged' });
    await client.removeFeed('broken');
    await expect(client.runFeed('broken')).rejects.toMatchObject({ problem: { code: 'feed-unknown' } });
    expect(await ask('broken', '/lamps')).toEqual({ colour: 'green' });
  });

  test('is fetched by the clock, and goes on after a restart', async () => {
    const home = join(folder, 'clock');
    await write(home, '1', 'red');
    const source = { kind: 'file' as const, path: join(home, 'lamps.yaml') };
    await upsetter.client.addFeed({ name: 'clock', service: 'clock', source, everyMs: 1_000 });
    const names = async () => (await upsetter.client.listServices()).map(({ name }) => name);
    await until(async () => (await names()).includes('clock'));
    await upsetter.stop();
    upsetter = await startTestUpsetter({ databaseUrl: database.url });
    await write(home, '1', 'green');
    await until(async () => ((await ask('clock', '/lamps')) as { colour: string }).colour === 'green');
    await upsetter.client.removeFeed('clock');
  });

  test('of which each version stands beside the one before', async () => {
    const home = join(folder, 'beside');
    await write(home, '1', 'red');
    const source = { kind: 'file' as const, path: join(home, 'lamps.yaml') };
    const { client } = upsetter;
    await client.addFeed({ name: 'beside', service: 'beside', source, sideBySide: true });
    await client.runFeed('beside');
    await write(home, '2.0', 'green');
    expect(await client.runFeed('beside')).toMatchObject({ service: 'beside@2.0', revision: 1 });
    await write(home, '2.0', 'blue');
    expect(await client.runFeed('beside')).toMatchObject({ service: 'beside@2.0', revision: 2 });
    expect(await ask('beside', '/lamps')).toEqual({ colour: 'red' });
    expect(await ask('beside@2.0', '/lamps')).toEqual({ colour: 'blue' });
    const { calls } = await client.listCalls({ service: 'beside@2.0' });
    expect(calls.map(({ service }) => service)).toEqual(['beside@2.0']);
  });
});

describe('a feed of a URL', () => {
  test('is asked for with the entity tag that is known', async () => {
    const asked: string[] = [];
    let etag = '"one"';
    const real = await startRealService((incoming, outgoing) => {
      asked.push(`${incoming.url} ${incoming.headers['if-none-match'] ?? ''}`.trim());
      if (incoming.headers['if-none-match'] === etag) outgoing.writeHead(304).end();
      else if (incoming.url === '/api/lamps.yaml') outgoing.writeHead(200, { etag }).end(CONTRACT('1'));
      else outgoing.writeHead(200).end(LAMP('red'));
    });
    const { client } = upsetter;
    await client.addFeed({ name: 'url', service: 'url', source: { kind: 'url', url: `${real.url}/api/lamps.yaml` } });
    expect(await client.runFeed('url')).toMatchObject({ outcome: 'created', version: 'etag "one"' });
    expect(await client.runFeed('url')).toMatchObject({ outcome: 'same' });
    etag = '"two"';
    expect(await client.runFeed('url')).toMatchObject({ outcome: 'merged', version: 'etag "two"' });
    expect(asked).toEqual([
      '/api/lamps.yaml',
      '/api/parts/lamp.yaml',
      '/api/lamps.yaml "one"',
      '/api/lamps.yaml "one"',
      '/api/parts/lamp.yaml',
    ]);
    await real.stop();
  });

  test('of a host that nobody named is refused', async () => {
    const source = { kind: 'url' as const, url: 'http://lamps.example/lamps.yaml' };
    await expect(upsetter.client.addFeed({ name: 'far', service: 'far', source })).rejects.toMatchObject({
      problem: { code: 'upstream-refused' },
    });
  });
});

describe('a feed of a git repository', () => {
  test('follows a branch, commit by commit', async () => {
    const home = join(folder, 'repository');
    await write(join(home, 'api'), '1', 'red');
    await git(home, 'init', '--quiet', '--initial-branch', 'main');
    await git(home, 'add', '-A');
    await git(home, 'commit', '--quiet', '-m', 'one');
    await git(home, 'branch', 'next');
    const { client } = upsetter;
    const source = { kind: 'git' as const, repository: home, branch: 'next', path: 'api/lamps.yaml' };
    await client.addFeed({ name: 'git', service: 'git', source });
    const first = await client.runFeed('git');
    expect(first).toMatchObject({ outcome: 'created', version: expect.stringMatching(/^commit [0-9a-f]{40}$/) });
    await write(join(home, 'api'), '1', 'green');
    await git(home, 'commit', '--quiet', '-am', 'on main alone');
    expect(await client.runFeed('git')).toMatchObject({ outcome: 'same' });
    await git(home, 'branch', '--force', 'next', 'main');
    expect(await client.runFeed('git')).toMatchObject({ outcome: 'merged' });
    expect(await ask('git', '/lamps')).toEqual({ colour: 'green' });
  });

  test('says what is wrong: no such branch, no such path, a link that leads out of it, a host that nobody named', async () => {
    const home = join(folder, 'odd');
    await mkdir(home);
    await symlink('/etc/hosts', join(home, 'link.yaml'));
    await git(home, 'init', '--quiet', '--initial-branch', 'main');
    await git(home, 'add', '-A');
    await git(home, 'commit', '--quiet', '-m', 'one');
    const tell = async (path: string, branch: string | null, repository = home) => {
      await upsetter.client.addFeed({ name: 'odd', service: 'odd', source: { kind: 'git', repository, branch, path } });
      return (await upsetter.client.runFeed('odd')).message;
    };
    expect(await tell('lamps.yaml', 'other')).toBe(`${home} has no branch other`);
    expect(await tell('lamps.yaml', null)).toBe(`lamps.yaml in ${home} cannot be read: there is no such file`);
    expect(await tell('link.yaml', null)).toMatch(/outside of the repository/);
    expect(await tell('../x.yaml', null)).toMatch(/outside of the repository/);
    expect(await tell('x.yaml', null, 'https://lamps.example/lamps.git')).toMatch(
      /a feed may not fetch from lamps\.example/,
    );
    expect(await tell('x.yaml', null, '--upload-pack=touch')).toMatch(/is no repository/);
  });
});
