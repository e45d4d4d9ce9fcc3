import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { beforeAll, describe, expect, test } from 'vitest';
import { interrupt, startCommand, upsetter } from '../support/command.js';
import { fileOf } from '../support/upsetter.js';

let directory: string;
let service: string;
let checks: string;

const ASK = (path: string): string[] => [
  '--',
  process.execPath,
  '-e',
  `fetch(process.env.UPSETTER_LAMP_DESK_URL + '${path}').then((r) => { console.log('asked', r.status); })`,
];

beforeAll(async () => {
  directory = await mkdtemp(join(tmpdir(), 'upsetter-run-'));
  service = join(directory, 'lamp-desk.yaml');
  checks = join(directory, 'checks.yaml');
  await writeFile(
    service,
    'upsetter: 1\nservice: lamp-desk\nlisten: { port: 4699 }\noperations:\n  read:\n    on: GET /lamps/{id}\n    cases: [{ case: lit, answer: { json: { id: "${call.path.id}" } } }]\n',
  );
  await writeFile(checks, 'checks:\n  - { check: asked once, of: lamp-desk/read, times: 1 }\n');
});

describe('run, in memory, without a database', () => {
  test('serves until it is interrupted, then runs the checks', async () => {
    const started = await startCommand(['run', service, '--port', '0', '--checks', checks]);
    expect(await (await fetch(`${started.services['lamp-desk']}/lamps/7`)).json()).toEqual({ id: '7' });
    expect((await fetch(`${started.control}/health`)).status).toBe(200);
    expect(await interrupt(started)).toMatchObject({ code: 0, out: expect.stringContaining('holds   asked once') });
  });

  test('with a command: passes the addresses on, and ends with the checks that hold', async () => {
    const { code, out } = await upsetter(['run', service, '--port', '0', '--checks', checks, ...ASK('/lamps/1')]);
    expect([code, out]).toEqual([0, expect.stringMatching(/asked 200[\s\S]*holds {3}asked once/)]);
  });

  test('ends with 1 when a check does not hold, and writes JUnit XML', async () => {
    const junit = join(directory, 'junit.xml');
    const { code, out } = await upsetter([
      'run',
      service,
      '--port',
      '0',
      '--checks',
      checks,
      '--junit',
      junit,
      ...ASK('/lanterns'),
    ]);
    expect([code, out]).toEqual([1, expect.stringContaining('failed  asked once')]);
    expect(await readFile(junit, 'utf8')).toContain(
      '<failure message="wanted exactly 1 call of lamp-desk/read; found 0 calls">',
    );
  });

  test("ends with the command's own exit code when that fails", async () => {
    const { code } = await upsetter(['run', service, '--port', '0', '--', process.execPath, '-e', 'process.exit(7)']);
    expect(code).toBe(7);
  });

  test('a command that cannot be run is said to be so', async () => {
    const finished = await upsetter(['run', service, '--port', '0', '--', 'no-such-command-here']);
    expect(finished).toMatchObject({ code: 2, err: expect.stringContaining('no-such-command-here cannot be run') });
  });

  test('a file with mistakes ends it before anything is served', async () => {
    const wrong = join(directory, 'wrong.yaml');
    await writeFile(wrong, 'upsetter: 1\nservice: Wrong\noperations: {}\n');
    expect(await upsetter(['run', service, wrong, '--port', '0'])).toMatchObject({
      code: 2,
      err: expect.stringContaining(`${wrong}:2:10`),
    });
  });

  test('a port that is taken is named', async () => {
    const started = await startCommand(['run', service, '--port', '0']);
    const { port } = new URL(started.services['lamp-desk'] ?? '');
    expect(await upsetter(['run', service, '--port', port])).toMatchObject({
      code: 2,
      err: expect.stringContaining(`port ${port} on 127.0.0.1 is taken`),
    });
    await interrupt(started);
  });
});

test('a draft needs no running service: what is written can be run as it is', async () => {
  const har = new URL('../../packages/demo/files/tide-office.har', import.meta.url).pathname;
  const output = join(directory, 'tide-office.yaml');
  expect(await upsetter(['draft', 'har', har, '-o', output])).toMatchObject({
    code: 0,
    err: expect.stringContaining('5 operations, 13 cases'),
  });
  const ask = `fetch(process.env.UPSETTER_TIDE_OFFICE_URL + '/notices').then((r) => r.text()).then((t) => console.log(t))`;
  expect((await upsetter(['run', output, '--port', '0', '--', process.execPath, '-e', ask])).out).toContain(
    'Gull Rock gauge',
  );

  const contract = new URL('../../packages/demo/files/berth-desk.openapi.yaml', import.meta.url).pathname;
  const { out, err } = await upsetter(['draft', 'openapi', contract]);
  expect(out).toContain('service: berth-desk');
  expect(err).toContain('8 operations, 13 cases');
});

test('--env chooses the variables of an environment that stands beside the file', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'upsetter-env-'));
  const file = join(folder, 'desk.yaml');
  const operations = 'readQuay: { on: GET /quay, cases: [{ case: q, answer: { json: "${vars.quay}" } }] }';
  await writeFile(file, fileOf('desk', operations, 'variables: { quay: North }'));
  await writeFile(join(folder, 'environments.yaml'), 'environments: { staging: { quay: South } }\n');
  const asked =
    'fetch(process.env.UPSETTER_DESK_URL + "/quay").then((r) => r.text()).then((t) => console.log("it is " + t))';
  const run = (...more: string[]) =>
    upsetter(['run', file, '--port', '0', ...more, '--', process.execPath, '-e', asked]);
  expect((await run()).out).toContain('it is "North"');
  expect((await run('--env', 'staging')).out).toContain('it is "South"');
  const unknown = await run('--env', 'stagin');
  expect([unknown.code, unknown.err]).toEqual([2, expect.stringContaining('did you mean `staging`?')]);
});
