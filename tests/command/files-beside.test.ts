import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { interrupt, type Started, startCommand, upsetter } from '../support/command.js';

const FILE = `upsetter: 1
service: chart
listen: { port: 0 }
operations:
  readChart:
    on: GET /chart
    cases:
      - case: usual
        answer: { json: ./chart/skerry.json }
`;
let directory: string;
let service: Started;

beforeAll(async () => {
  directory = await mkdtemp(join(tmpdir(), 'upsetter-beside-'));
  await mkdir(join(directory, 'chart'));
  await writeFile(join(directory, 'chart.yaml'), FILE);
  await writeFile(join(directory, 'chart/skerry.json'), '{ "port": "${call.path.none}" }');
});
afterAll(async () => {
  await interrupt(service);
  await rm(directory, { recursive: true });
});

const run = (...args: string[]) => upsetter(args, { UPSETTER_URL: service.control });
const file = (...parts: string[]) => join(directory, ...parts);

test('a mistake in a file beside, or one that is missing, is told with the line that refers to it', async () => {
  const mistaken = await upsetter(['run', file('chart.yaml')]);
  expect(mistaken.code).toBe(2);
  expect(mistaken.err).toMatch(/chart\.yaml:9:\d+/);
  expect(mistaken.err).toContain('(in ./chart/skerry.json)');
  await rm(file('chart/skerry.json'));
  expect((await upsetter(['run', file('chart.yaml')])).err).toContain(
    'there is no file ./chart/skerry.json beside the service file',
  );
});

test('run serves what stands in files beside; apply changes it, and export writes it all', async () => {
  await writeFile(file('chart/skerry.json'), '{ "port": "skerry" }');
  service = await startCommand(['run', file('chart.yaml')]);
  const read = async () => (await fetch(`${service.services['chart']}/chart`)).json();
  expect(await read()).toEqual({ port: 'skerry' });

  await writeFile(file('chart/skerry.json'), '{ "port": "holm" }');
  expect((await run('apply', file('chart.yaml'), '--replace')).out).toMatch(/^changed +chart +revision 2/);
  expect(await read()).toEqual({ port: 'holm' });
  expect((await run('apply', file('chart.yaml'))).out).toMatch(/^the same/);

  const shown = await run('show', 'chart', '--file');
  expect([shown.out, shown.err]).toEqual([FILE, expect.stringContaining('1 file beside it')]);
  const exported = await run('export', 'chart', file('out'));
  expect(exported.out).toContain(`wrote ${file('out', 'chart.yaml')}`);
  expect(await readFile(file('out/chart.yaml'), 'utf8')).toBe(FILE);
  expect(JSON.parse(await readFile(file('out/chart/skerry.json'), 'utf8'))).toEqual({ port: 'holm' });
});

test('a draft writes its large bodies beside the file, merges around them, and is adopted with them', async () => {
  const rows = Array.from({ length: 100 }, (_, id) => ({ id, depth: 8.5 }));
  const entry = {
    request: { method: 'GET', url: 'http://127.0.0.1:4691/chart' },
    response: { status: 200, content: { mimeType: 'application/json', text: JSON.stringify(rows) } },
  };
  await writeFile(file('session.har'), JSON.stringify({ log: { entries: [entry] } }));
  const args = ['draft', 'har', file('session.har'), '--as', 'depths', '--level', 'as-heard'];
  const drafted = await upsetter([...args, '-o', file('depths.yaml')]);
  expect(drafted.err).toContain('and 1 file beside it');
  const body = file('depths/readChart.as-heard.json');
  expect(JSON.parse(await readFile(body, 'utf8'))).toEqual(rows);

  await writeFile(body, JSON.stringify(rows.slice(0, 99)));
  expect((await upsetter([...args, '-o', file('depths.yaml'), '--merge'])).err).toContain('readChart / as heard');
  expect(JSON.parse(await readFile(body, 'utf8'))).toHaveLength(99);

  const printed = await upsetter(args);
  expect(printed.out).not.toContain('./depths');
  const adopted = await run(...args, '--adopt');
  const address = /http:\S+/.exec(adopted.out)?.[0];
  expect(await (await fetch(`${address}/chart`)).json()).toEqual(rows);
});
