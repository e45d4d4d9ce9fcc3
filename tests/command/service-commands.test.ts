import { cp, mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { interrupt, launch, type Started, startCommand, upsetter } from '../support/command.js';
import { createDatabase, type TestDatabase } from '../support/database.js';

const FILES = fileURLToPath(new URL('../../packages/demo/files/', import.meta.url));
const EMPTY_HAR = join(tmpdir(), `upsetter-empty-${process.pid}.har`);
let database: TestDatabase;
let service: Started;
let directory: string;
let env: Record<string, string>;

beforeAll(async () => {
  directory = await mkdtemp(join(tmpdir(), 'upsetter-commands-'));
  await writeFile(EMPTY_HAR, '{"log":{"entries":[{}]}}');
  database = await createDatabase();
  service = await startCommand(['up', '--port', '0', '--mock-ports', '0', '--database', database.url]);
  env = { UPSETTER_URL: service.control };
});
afterAll(async () => {
  expect((await interrupt(service)).code).toBe(0);
  await database.drop();
});

const run = (...args: string[]) => upsetter(args, env);

/** A demo file that listens on a free port, so that tests stand beside a running demo. */
async function freeFile(name: string): Promise<string> {
  const path = join(directory, name);
  await writeFile(path, (await readFile(join(FILES, name), 'utf8')).replace(/^listen:.*$/m, 'listen: { port: 0 }'));
  await cp(join(FILES, 'berth-desk.openapi.yaml'), join(directory, 'berth-desk.openapi.yaml'));
  return path;
}

describe('help', () => {
  const commands = [
    'up',
    'run',
    'apply',
    'services',
    'show',
    'remove',
    'history',
    'draft',
    'draft har',
    'draft openapi',
    'draft take',
    'take',
    'take start',
    'take stop',
    'take list',
    'take show',
    'take keep',
    'take export',
    'take remove',
    'upset',
    'calm',
    'try',
    'calls',
    'why',
    'check',
    'schema',
  ];
  test.each(commands)('of %s has an example that begins with the command', async (command) => {
    const { code, out } = await upsetter([...command.split(' '), '--help']);
    expect([code, out]).toEqual([0, expect.stringContaining(`Example:\n  upsetter ${command} `.trimEnd())]);
  });

  test('an unknown command is wrong use', async () => {
    const { code, err } = await upsetter(['serivces']);
    expect([code, err]).toEqual([2, expect.stringContaining('Did you mean services?')]);
  });
});

test('schema writes the JSON Schema of the service file, with no service running', async () => {
  const to = join(directory, 'upsetter.schema.json');
  const { code, out } = await upsetter(['schema', '-o', to]);
  expect([code, out]).toEqual([0, expect.stringContaining(`$schema=${to}`)]);
  expect(JSON.parse(await readFile(to, 'utf8'))).toEqual(JSON.parse((await upsetter(['schema'])).out));
  const refused = await upsetter(['schema', '-o', join(directory, 'nowhere', 'a.json')]);
  expect([refused.code, refused.err]).toEqual([2, expect.stringContaining('cannot be written')]);
});

describe('a session with the running service', () => {
  test('apply, services, show, try, calls, why, upset, calm, check, history, remove', async () => {
    const file = await freeFile('tide-office.yaml');
    expect(await run('apply', file)).toMatchObject({
      code: 0,
      out: expect.stringMatching(/^created {3}tide-office {2}revision 1 {2}http:/),
    });
    expect((await run('apply', file)).out).toMatch(/^the same/);
    expect((await run('services')).out).toMatch(/tide-office .* tide office is slow/);
    await run('calm', 'tide-office');

    const tried = await run('try', 'tide-office', 'get', '/tides/skerry?day=2026-03-04');
    expect(tried.out).toMatch(/^200 /);
    expect(tried.out).toContain('=> answered     spring tide');
    expect(
      (await run('try', 'tide-office', 'POST', '/alarms', '--body', '{"port":"skerry"}', '-H', 'x-board: 7')).out,
    ).toContain('=> answered     incomplete');

    const stray = await run('try', 'tide-office', 'GET', '/tide/skerry');
    expect(stray.out).toContain('closest is readTide (GET /tides/{port})');
    const strays = JSON.parse((await run('calls', 'tide-office', '--strays', '--json')).out) as { id: string }[];
    const why = await run('why', strays[0]?.id.slice(-8) ?? '');
    expect(why.out).toContain('failed  path    wanted /tides/{port}  found /tide/skerry');
    expect((await run('calls')).out).toMatch(/GET \/tides\/skerry.* {2}readTide \/ spring tide .* 200/);

    expect((await run('upset', 'tide-office', 'readTide', '--answer', '503')).out).toContain(
      'calm again: upsetter calm tide-office',
    );
    expect((await run('try', 'tide-office', 'GET', '/tides/skerry?day=2026-03-04')).out).toMatch(/^503 /);
    expect((await run('calm', 'tide-office')).out).toContain('1 upset switched off');

    const checks = join(directory, 'checks.yaml');
    await writeFile(checks, 'checks:\n  - { check: asked, of: tide-office/readTide, times: { least: 1 } }\n');
    expect(await run('check', checks)).toMatchObject({ code: 0, out: expect.stringContaining('1 check holds') });
    await writeFile(checks, 'checks:\n  - { check: none, of: tide-office, strays: 0 }\n');
    const junit = join(directory, 'checks.xml');
    expect(await run('check', checks, '--junit', junit)).toMatchObject({
      code: 1,
      out: expect.stringContaining('failed  none'),
    });
    expect(await readFile(junit, 'utf8')).toContain('failures="1"');

    expect((await run('history', 'tide-office')).out).toContain('applied from');
    expect((await run('show', 'tide-office', '--file')).out).toBe(await readFile(file, 'utf8'));
    expect(await run('remove', 'tide-office')).toMatchObject({ code: 0 });
    expect(await run('show', 'tide-office')).toMatchObject({
      code: 2,
      err: expect.stringContaining('there is no service tide-office'),
    });
  });

  test('apply does not go over a change made since, unless told to', async () => {
    const file = await freeFile('berth-desk.yaml');
    await run('apply', file);
    const answer = await fetch(
      `${service.control}/api/services/berth-desk/operations/readBooking/cases/confirmed/answer`,
      {
        method: 'PUT',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ answer: 'json: { state: held }' }),
      },
    );
    expect(answer.status).toBe(200);
    await writeFile(file, `${await readFile(file, 'utf8')}# more\n`);
    expect(await run('apply', file)).toMatchObject({
      code: 2,
      err: expect.stringContaining('was changed since the last apply (revision 2: answer of readBooking / confirmed)'),
    });
    expect(await run('apply', file, '--replace')).toMatchObject({
      code: 0,
      out: expect.stringContaining('revision 3'),
    });
  });

  test('calls --follow prints calls as they come, until it is interrupted', async () => {
    const shown = JSON.parse((await run('apply', await freeFile('berth-desk.yaml'), '--replace', '--json')).out) as {
      address: string;
    }[];
    const child = launch(['calls', 'berth-desk', '--follow'], env);
    const asking = setInterval(() => void fetch(`${shown[0]?.address}/berths/N7`), 100);
    const line = await new Promise<string>((resolve) => child.stdout?.once('data', (data) => resolve(String(data))));
    clearInterval(asking);
    expect(line).toContain('readBerth / north quay');
    child.kill('SIGINT');
    await new Promise((resolve) => child.once('close', resolve));
    expect(child.exitCode).toBe(0);
  });

  test('a draft is adopted into the running service, and not over one that is there', async () => {
    expect(await run('draft', 'har', join(FILES, 'tide-office.har'), '--as', 'adopted', '--adopt')).toMatchObject({
      code: 0,
      out: expect.stringContaining('created'),
    });
    expect((await run('try', 'adopted', 'GET', '/tides/gullrock?day=2026-03-03')).out).toContain('"height": 1.72');
    const again = ['draft', 'har', join(FILES, 'tide-office.har'), '--as', 'adopted', '--adopt'];
    expect(await run(...again)).toMatchObject({
      code: 2,
      err: expect.stringContaining('there is a service adopted already'),
    });
    expect(await run(...again, '--replace')).toMatchObject({ code: 0, out: expect.stringContaining('the same') });
  });
});

describe('errors say what, where and what to do, with an exit code', () => {
  test('a file with mistakes: 2, with the line and a mark under the place', async () => {
    const file = join(directory, 'wrong.yaml');
    await writeFile(file, 'upsetter: 1\nservice: wrong\noperations:\n  read:\n    on: GET /a\n    caess: []\n');
    const { code, err } = await run('apply', file);
    expect(code).toBe(2);
    expect(err).toContain(`${file}:6:5`);
    expect(err).toContain('did you mean `cases`?');
    expect(err).toContain('    6 |     caess: []\n            ^');
  });

  test.each<[string, string[], number, string]>([
    ['a service that is not there', ['show', 'nobody'], 2, 'there is no service nobody'],
    ['a file that is not there', ['apply', '/nowhere.yaml'], 2, 'there is no such file'],
    ['an upset that does nothing', ['upset', 'berth-desk'], 2, 'give --delay, --pace, --answer or --break'],
    ['a delay that is none', ['upset', 'berth-desk', '--delay', 'soon'], 2, '--delay is a duration such as 800ms'],
    ['a pace that is none', ['upset', 'berth-desk', '--pace', 'slow'], 2, '--pace is a rate such as 500B/s'],
    ['pieces without a gap', ['upset', 'berth-desk', '--pieces', '5'], 2, 'by --pieces COUNT with --gap DURATION'],
    ['a time without a length', ['upset', 'berth-desk', '--break', 'reset', '--from', '30s'], 2, 'go with --for'],
    [
      'a count that is none',
      ['upset', 'berth-desk', '--delay', '1s', '--first', 'two'],
      2,
      'a number of calls, from 1',
    ],
    [
      'two ways to choose calls',
      ['upset', 'berth-desk', '--delay', '1s', '--first', '2', '--share', '50%'],
      2,
      'one of --share, --first, --every and --for',
    ],
    ['a header that is none', ['try', 'berth-desk', 'GET', '/', '-H', 'x'], 2, "--header is written 'name: value'"],
    ['a call that is not there', ['why', '01234567'], 2, 'no call begins or ends with 01234567'],
    ['a HAR that is none', ['draft', 'har', join(FILES, 'checks.yaml')], 2, 'not JSON'],
    ['a HAR with nothing to draft', ['draft', 'har', EMPTY_HAR], 2, 'log.entries[0]  request: '],
    ['up without a database', ['up', '--port', '0'], 2, 'no database is named'],
    [
      'a database that cannot be reached',
      ['up', '--port', '0', '--database', 'postgres://a:b@127.0.0.1:1/c'],
      3,
      'the database cannot be reached',
    ],
  ])('%s', async (_what, args, code, said) => {
    expect(await run(...args)).toMatchObject({ code, err: expect.stringContaining(said) });
  });

  test('a service that cannot be reached: 3, and how to start it', async () => {
    const finished = await upsetter(['services'], { UPSETTER_URL: 'http://127.0.0.1:9' });
    expect(finished).toMatchObject({ code: 3, err: expect.stringContaining('Start it: upsetter up') });
  });

  test('with --json, the problem as JSON', async () => {
    const { err } = await run('show', 'nobody', '--json');
    expect(JSON.parse(err)).toMatchObject({ code: 'service-unknown', status: 404 });
  });
});
