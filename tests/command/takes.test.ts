import { X509Certificate } from 'node:crypto';
import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { createAsk, FIRST_SESSION, playBookingSession, SECOND_SESSION } from '@upsetter/demo/sessions';
import { createBerthDesk } from '@upsetter/demo/world';
import type { FastifyInstance } from 'fastify';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { interrupt, type Started, startCommand, upsetter } from '../support/command.js';
import { askPlain } from '../support/proxied-call.js';

const SERVICE = 'upsetter: 1\nservice: lamps\nlisten: { port: 0 }\noperations: {}\n';
let desk: FastifyInstance;
let deskUrl: string;
let service: Started;
let directory: string;

beforeAll(async () => {
  desk = createBerthDesk();
  deskUrl = await desk.listen({ host: '127.0.0.1', port: 0 });
  directory = await mkdtemp(join(tmpdir(), 'upsetter-takes-'));
  await writeFile(join(directory, 'lamps.yaml'), SERVICE);
  service = await startCommand(['run', join(directory, 'lamps.yaml')]);
});
afterAll(async () => {
  await interrupt(service);
  await desk.close();
});

const run = (...args: string[]) => upsetter(args, { UPSETTER_URL: service.control });

test('take start, list, stop, show, export, draft take, adopt, remove', async () => {
  const started = await run('take', 'start', 'booking', '--from', deskUrl);
  expect(started.out).toContain(`booking hears ${deskUrl}`);
  const address = /Point the application at (\S+),/.exec(started.out)?.[1] ?? '';
  await playBookingSession(createAsk(address), FIRST_SESSION);
  expect((await run('take', 'list')).out).toMatch(/booking +open +29 exchanges .* through http:/);

  const stopped = await run('take', 'stop', 'booking');
  expect(stopped.out).toContain('29 exchanges with');
  expect(stopped.out).toContain('masked: json token (1), header authorization (3)');
  expect(stopped.out).toMatch(/#28 .* GET +200 .* \/bookings/);
  expect(JSON.parse((await run('take', 'show', 'booking', '--json')).out)).toMatchObject({
    state: 'closed',
    exchanges: { length: 29 },
  });

  const har = join(directory, 'booking.har');
  expect((await run('take', 'export', 'booking', '--har', har)).out).toBe(`wrote ${har}\n`);
  const file = join(directory, 'desk.yaml');
  const fromHar = await run('draft', 'har', har, '--level', 'as-heard', '-o', file);
  expect([fromHar.code, fromHar.err]).toEqual([
    0,
    expect.stringContaining('fidelity 100 %: 29 of 29 exchanges answered as heard'),
  ]);
  expect(await readFile(file, 'utf8')).toContain('# Drafted from 29 exchanges');

  const adopted = await run('draft', 'take', 'booking', '--as', 'desk', '--adopt');
  expect(adopted.out).toMatch(/^created +desk +revision 1 +http:/);
  const mock = /http:\S+/.exec(adopted.out)?.[0] ?? '';
  await playBookingSession(createAsk(mock), SECOND_SESSION);
  expect((await run('take', 'remove', 'booking')).out).toBe('removed the take booking\n');
  expect((await run('take', 'list')).out).toContain('No takes yet.');
});

test('a draft says what was left out and overruled', async () => {
  const har = join(directory, 'booking.har');
  const args = [
    'draft',
    'har',
    har,
    '--without',
    '/berths/*',
    'status:409',
    '--overrule',
    'records:bookings=no',
    'operation:login=as-heard',
  ];
  const { code, err, out } = await run(...args);
  expect(code).toBe(0);
  expect(err).toContain('left out 7 as you said');
  expect(err).not.toContain('[records:bookings]');
  expect(out).not.toContain('datasets:');
});

test('a contract beside the session gives its names, and one that is none is told by its own file', async () => {
  const har = join(directory, 'booking.har');
  const contract = fileURLToPath(new URL('../../packages/demo/files/berth-desk.openapi.yaml', import.meta.url));
  const { code, err, out } = await run('draft', 'har', har, '--contract', contract);
  expect(code).toBe(0);
  expect(err).toContain('{berthId} is a parameter  as the contract has it');
  expect(out).toContain('  listFreeBerths:\n');

  const broken = join(directory, 'twice.yaml');
  await writeFile(broken, 'openapi: 3.0.0\npaths: {}\npaths: {}\n');
  const refused = await run('draft', 'har', har, '--contract', broken);
  expect(refused.code).toBe(2);
  expect(refused.err).toContain(`${broken}:3:1`);
  expect(refused.err).toContain('the key `paths` stands in this map already');
});

test.each<[string, string[], number, string]>([
  ['whom to hear is not said', ['take', 'start', 'x'], 2, 'say whom to hear: --from URL'],
  ['no URL', ['take', 'start', 'x', '--from', 'harbour'], 2, '`from` is an http or https URL'],
  ['no such take', ['take', 'stop', 'nobody'], 2, 'there is no take nobody'],
  ['no such take to draft', ['draft', 'take', 'nobody'], 2, 'there is no take nobody'],
  [
    'no such level',
    ['draft', 'take', 'nobody', '--level', 'lively'],
    2,
    '--level is as-heard, carried, alive, not lively',
  ],
  ['a choice that chooses nothing', ['draft', 'har', 'HAR', '--without', 'charts'], 2, '"charts" chooses nothing'],
  ['an overrule of nothing', ['draft', 'har', 'HAR', '--overrule', 'x=y'], 2, 'x=y overrules nothing'],
  ['an overrule without a value', ['draft', 'har', 'HAR', '--overrule', 'path'], 2, '--overrule is ID=VALUE, not path'],
  [
    'no such file of an authority',
    ['take', 'start', 'x', '--from', 'https://127.0.0.1', '--authority', '/nowhere.pem'],
    2,
    '/nowhere.pem cannot be read',
  ],
])('%s: an error that says so', async (_what, args, code, text) => {
  const har = join(directory, 'booking.har');
  const finished = await run(...args.map((arg) => (arg === 'HAR' ? har : arg)));
  expect(finished.err).toContain(text);
  expect(finished.code).toBe(code);
});

test('take start --proxy hears whoever has it as http_proxy; authority export writes what https needs', async () => {
  const started = await run('take', 'start', 'passing', '--proxy', '--hear', '127.0.0.*');
  expect(started.out).toContain('passing hears 127.0.0.* through a proxy');
  expect(started.out).toContain('authority export -o');
  const address = /http_proxy and https_proxy of the application to (\S+),/.exec(started.out)?.[1] ?? '';
  expect((await askPlain(address, `${deskUrl}/berths`)).status).toBe(200);
  expect((await run('take', 'list')).out).toMatch(/passing +open +1 exchange .* the proxy at http:/);
  const stopped = await run('take', 'stop', 'passing');
  expect(stopped.out).toContain('1 exchange through the proxy, closed');
  expect(stopped.out).toContain(`${new URL(deskUrl).host}  1 heard`);

  const file = join(directory, 'authority.pem');
  const exported = await run('authority', 'export', '-o', file);
  expect(exported.out).toMatch(/wrote .*authority.pem: Upsetter authority of .*, valid until 20\d\d-/);
  const pem = await readFile(file, 'utf8');
  expect(new X509Certificate(pem).ca).toBe(true);
  expect((await run('authority', 'export')).out).toBe(pem);
});

test.each([
  [['--proxy', '--from', 'http://127.0.0.1:1'], /not both/],
  [['--proxy', '--rewrite'], /--rewrite belongs to --from/],
  [['--from', 'http://127.0.0.1:1', '--hear', 'x'], /--hear chooses hosts of --proxy/],
  [[], /--from URL of the real service, or --proxy/],
])('take start with %j is refused: %s', async (args, message) => {
  const { code, err } = await run('take', 'start', 'wrong', ...args);
  expect(code).toBe(2);
  expect(err).toMatch(message);
});
