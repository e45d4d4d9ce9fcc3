import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type Started, startCommand, upsetter } from '../support/command.js';
import { fileOf } from '../support/upsetter.js';

let started: Started;
let address: string;

beforeAll(async () => {
  const file = join(await mkdtemp(join(tmpdir(), 'upsetter-lanes-')), 'desk.yaml');
  const hold =
    'hold: { on: POST /holds, cases: [{ case: held, answer: { json: "${next(\'hold\')}" }, then: [{ set: { last: N7 } }] }] }';
  await writeFile(file, fileOf('desk', hold, 'state: { last: none }'));
  started = await startCommand(['run', file, '--port', '0', '--control-port', '0']);
  address = started.services['desk'] ?? '';
  await fetch(`${address}/holds`, { method: 'POST', headers: { 'upsetter-lane': 'night-shift' } });
});
afterAll(async () => {
  started.child.kill('SIGTERM');
  await started.finished;
});

const lane = (...args: string[]) => upsetter(['lane', ...args, '--control', started.control]);

describe('upsetter lane', () => {
  test('lists lanes, main first', async () => {
    const { out, code } = await lane('list');
    expect(code).toBe(0);
    expect(out).toMatch(
      /^lane +calls +last call +clock +services\nmain +0 +never +real time\nnight-shift +1 .*real time +desk\n$/,
    );
  });

  test('shows what is another in one', async () => {
    const { out } = await lane('show', 'night-shift');
    expect(out).toMatch(
      /^night-shift {2}1 call .*\(real time\)\n\ndesk {2}1 call\n {2}state last {2}"N7"\n {2}counter hold {2}1\n$/,
    );
  });

  test('sets its clock, on and back, and lets it stand still', async () => {
    expect((await lane('clock', 'night-shift', '--advance', '36h')).out).toMatch(/\(36 h ahead\)/);
    expect((await lane('clock', 'night-shift', '--advance', '-1d')).out).toMatch(/\(12 h ahead\)/);
    expect((await lane('clock', 'night-shift', '--freeze', '2026-03-02T09:30:00Z')).out).toBe(
      'night-shift  2026-03-02T09:30:00.000Z (stands still)\n',
    );
    expect((await lane('clock', 'night-shift', '--release')).out).toMatch(/\(real time\)/);
  });

  test('resets and drops, and says what is not there', async () => {
    expect((await lane('reset', 'night-shift')).out).toContain('checks look from now on');
    expect((await lane('show', 'night-shift')).out).toMatch(/^night-shift {2}0 calls .*reset at/);
    expect((await lane('drop', 'night-shift')).out).toBe('dropped  night-shift\n');
    const gone = await lane('show', 'night-shift');
    expect([gone.code, gone.err]).toEqual([2, expect.stringContaining('there is no lane night-shift')]);
    const bad = await lane('clock', 'main', '--advance', 'soon');
    expect([bad.code, bad.err]).toEqual([2, expect.stringContaining('a duration such as 90m')]);
  });
});
