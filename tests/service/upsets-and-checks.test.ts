import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

const OPERATIONS = `
read:
  on: GET /lamp/{id}
  cases: [{ case: lit, answer: { json: { n: "\${next('n')}" } } }]
light:
  on: POST /lamp
  cases: [{ case: lit, when: { json $.colour: red }, answer: { status: 201 } }]
`;
let upsetter: TestUpsetter;

beforeAll(async () => {
  upsetter = await startTestUpsetter();
});
afterAll(() => upsetter.stop());

describe('upsets, switched while running', () => {
  test('a delay comes on top, is never shorter than asked, and calm ends it at once', async () => {
    const address = await upsetter.serve('slow', OPERATIONS);
    await upsetter.client.upset('slow', { upset: 'slow', delay: '120ms', of: ['read'] });
    const startedMs = performance.now();
    await fetch(`${address}/lamp/1`);
    expect(performance.now() - startedMs).toBeGreaterThanOrEqual(120);
    const [call] = (await upsetter.client.listCalls({ service: 'slow' })).calls;
    expect(call).toMatchObject({ upsets: ['slow'], delayAskedMs: 120 });
    expect(call?.delayGivenMs).toBeGreaterThanOrEqual(120);
    expect(await upsetter.client.calm('slow')).toEqual({ calmed: 1 });
    await fetch(`${address}/lamp/1`);
    expect((await upsetter.client.listCalls({ service: 'slow', limit: 1 })).calls[0]).toMatchObject({
      upsets: [],
      delayAskedMs: 0,
    });
  });

  test('an answer stands in for the case, which takes no turn', async () => {
    const address = await upsetter.serve('down', OPERATIONS);
    await fetch(`${address}/lamp/1`);
    await upsetter.client.upset('down', { upset: 'down', answer: { status: 503, headers: { 'retry-after': '5' } } });
    const refused = await fetch(`${address}/lamp/1`);
    expect([refused.status, refused.headers.get('retry-after')]).toEqual([503, '5']);
    expect((await upsetter.client.listCalls({ service: 'down', limit: 1 })).calls[0]).toMatchObject({
      answeredBy: 'upset',
      case: null,
      stray: false,
    });
    await upsetter.client.calm('down');
    expect(await (await fetch(`${address}/lamp/1`)).json()).toEqual({ n: 2 });
  });

  test('those of the file are switched by name, and stay so over a save', async () => {
    const upsets = 'upsets: [{ upset: fog, calm: true, answer: { status: 504 } }]';
    const address = await upsetter.serve('foggy', OPERATIONS, upsets);
    const status = async () => (await fetch(`${address}/lamp/1`)).status;
    expect(await status()).toBe(200);
    await upsetter.client.switchUpset('foggy', 'fog', true);
    expect(await status()).toBe(504);
    await upsetter.serve('foggy', OPERATIONS.replace('case: lit', 'case: bright'), upsets);
    expect(await status()).toBe(504);
    expect((await upsetter.client.listServices()).find(({ name }) => name === 'foggy')?.upsetsInForce).toEqual(['fog']);
    await upsetter.client.switchUpset('foggy', 'fog', false);
    expect(await status()).toBe(200);
  });

  test.each([
    [{ upset: 'x', delay: 'soon' }, 'a duration such as 800ms'],
    [{ upset: 'x' }, 'an upset does something'],
    [{ upset: 'x', delay: '1s', of: ['raed'] }, 'did you mean `read`?'],
  ])('%j is refused, saying why', async (upset, reason) => {
    await upsetter.serve('strict', OPERATIONS);
    await expect(upsetter.client.upset('strict', upset)).rejects.toThrow(reason);
  });

  test('an unknown upset is named with those there are', async () => {
    await expect(upsetter.client.switchUpset('foggy', 'fgo', true)).rejects.toThrow(
      'foggy has no upset fgo; it has fog',
    );
  });
});

describe('checks over the calls received', () => {
  let address: string;
  const run = (checks: string, more: { withinMs?: number; lane?: string; since?: string } = {}) =>
    upsetter.client.runChecks({ file: `checks:\n${checks}`, ...more });
  const inLane = (lane: string, path: string, init: RequestInit = {}) =>
    fetch(`${address}${path}`, { ...init, headers: { 'upsetter-lane': lane } });

  beforeAll(async () => {
    address = await upsetter.serve('checked', OPERATIONS);
  });

  test('see every call received before they are asked, in their lane only', async () => {
    await Promise.all(Array.from({ length: 20 }, (_, i) => inLane('count', `/lamp/${i}`)));
    await inLane('other', '/lamp/1');
    expect(await run('- { check: twenty, of: checked/read, lane: count, times: 20 }')).toMatchObject({ holds: true });
    expect(await run('- { check: twenty, of: checked/read, times: 20 }', { lane: 'count' })).toMatchObject({
      holds: true,
    });
  });

  test('a failed one shows the nearest calls and what differed', async () => {
    await inLane('near', '/lamp', { method: 'POST', body: '{"colour":"green"}' });
    const { holds, results } = await run(
      '- { check: red, of: checked/light, lane: near, where: { json $.colour: red }, times: 1 }\n- { check: no strays, lane: near, strays: 0 }',
    );
    expect(holds).toBe(false);
    expect(results[0]).toMatchObject({
      holds: false,
      found: '0 calls',
      near: [{ call: 'POST /lamp', differs: [{ place: 'json $.colour', wanted: '"red"', found: '"green"' }] }],
    });
    expect(results[1]).toMatchObject({ holds: false, near: [{ call: 'POST /lamp' }] });
  });

  test('least and order settle as soon as they hold', async () => {
    const startedMs = performance.now();
    const checks = run(
      '- { check: soon, of: checked/read, lane: soon, times: { least: 1 } }\n- { check: order, lane: soon, order: [checked/read, checked/light] }',
      { withinMs: 20_000 },
    );
    await inLane('soon', '/lamp/1');
    await inLane('soon', '/lamp', { method: 'POST', body: '{"colour":"red"}' });
    expect(await checks).toMatchObject({ holds: true });
    expect(performance.now() - startedMs).toBeLessThan(15_000);
  });

  test('an exact count watches the whole time: a call too many fails it, at once', async () => {
    const checks = run('- { check: one, of: checked/read, lane: exact, times: 1, within: 20s }');
    await inLane('exact', '/lamp/1');
    await inLane('exact', '/lamp/2');
    const { results } = await checks;
    expect(results[0]).toMatchObject({ holds: false, found: '2 calls' });
    expect(results[0]?.tookMs).toBeLessThan(15_000);
  });

  test('an exact count that holds is only said to hold when the time is over', async () => {
    await inLane('calm', '/lamp/1');
    const { results } = await run('- { check: one, of: checked/read, lane: calm, times: 1, within: 300ms }');
    expect(results[0]?.holds).toBe(true);
    expect(results[0]?.tookMs).toBeGreaterThanOrEqual(299);
  });

  test('since leaves out what came before', async () => {
    await inLane('since', '/lamp/1');
    const since = new Date(Date.now() + 1).toISOString();
    expect(await run('- { check: none, of: checked/read, lane: since, times: 0 }', { since })).toMatchObject({
      holds: true,
    });
    await expect(run('- { check: none, of: checked/read, times: 0 }', { since: 'lately' })).rejects.toThrow(
      '`since` is a duration',
    );
  });

  test('a checks file with mistakes is refused with line and column', async () => {
    await expect(run('- { check: x, of: checkd/read, times: 1 }')).rejects.toMatchObject({
      problem: {
        code: 'file-refused',
        problems: [
          expect.objectContaining({ line: 2, column: 19, message: 'no service `checkd`; did you mean `checked`?' }),
        ],
      },
    });
  });
});

describe('Try', () => {
  test('sends a call as any caller would, and says what answered and why', async () => {
    await upsetter.serve('tried', OPERATIONS);
    const result = await upsetter.client.tryCall('tried', {
      method: 'POST',
      path: '/lamp',
      body: '{"colour":"blue"}',
      lane: 'mine',
    });
    expect(result).toMatchObject({
      status: 404,
      call: { lane: 'mine', stray: true },
      why: { summary: 'no case of light holds' },
    });
  });

  test('a call that cannot be sent is refused, saying why', async () => {
    await upsetter.serve('tried', OPERATIONS);
    await expect(upsetter.client.tryCall('tried', { method: 'GE T', path: '/lamp' })).rejects.toThrow(
      'could not be sent',
    );
    await expect(upsetter.client.tryCall('tried', { method: 'GET', path: 'lamp' })).rejects.toThrow(
      'a path starts with /',
    );
  });
});
