import { Agent, request } from 'node:http';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

let upsetter: TestUpsetter;
const agent = new Agent({ keepAlive: true, maxSockets: 200 });

beforeAll(async () => {
  upsetter = await startTestUpsetter();
});
afterAll(async () => {
  agent.destroy();
  await upsetter.stop();
});

/** One call over the shared connections; its body. */
function ask(url: string, headers: Record<string, string> = {}): Promise<string> {
  return new Promise((resolve, reject) => {
    const outgoing = request(url, { agent, headers }, (response) => {
      let body = '';
      response
        .setEncoding('utf8')
        .on('data', (text) => (body += text))
        .on('end', () => resolve(body))
        .on('error', reject);
    });
    outgoing.on('error', reject).end();
  });
}

const COUNTING =
  'read:\n  on: GET /lamp\n  cases: [{ case: lit, answer: { json: { n: "${next(\'n\')}", id: "${uuid()}" } } }]';

describe('under many callers at once', () => {
  test('no count is lost or doubled, delayed or not', async () => {
    const address = await upsetter.serve('counted', COUNTING, 'upsets: [{ upset: uneven, delay: 20ms, share: 50% }]');
    const bodies = await Promise.all(Array.from({ length: 600 }, () => ask(`${address}/lamp`)));
    const answers = bodies.map((body) => JSON.parse(body) as { n: number; id: string });
    expect(answers.map(({ n }) => n).sort((a, b) => a - b)).toEqual(Array.from({ length: 600 }, (_, i) => i + 1));
    expect(new Set(answers.map(({ id }) => id)).size).toBe(600);
  });

  test('lanes do not disturb one another: each counts for itself', async () => {
    const address = await upsetter.serve('laned', COUNTING);
    const lanes = Array.from({ length: 50 }, (_, i) => `lane ${i}`);
    const bodies = await Promise.all(
      lanes.flatMap((lane) => [1, 2, 3].map(() => ask(`${address}/lamp`, { 'upsetter-lane': lane }))),
    );
    const counts = bodies.map((body) => (JSON.parse(body) as { n: number }).n).sort();
    expect(counts).toEqual([...Array(50).fill(1), ...Array(50).fill(2), ...Array(50).fill(3)]);
  });

  test('a delay is never shorter than asked', async () => {
    const address = await upsetter.serve('delayed', COUNTING, 'upsets: [{ upset: slow, delay: 35ms }]');
    await Promise.all(Array.from({ length: 60 }, () => ask(`${address}/lamp`)));
    const { calls } = await upsetter.client.listCalls({ service: 'delayed', limit: 60 });
    expect(calls).toHaveLength(60);
    for (const call of calls) expect(call.delayGivenMs).toBeGreaterThanOrEqual(35);
  });

  test('a check whose calls had to make room is an error, never a pass', async () => {
    const small = await startTestUpsetter({ keptCalls: 100 });
    const address = await small.serve('many', COUNTING);
    await Promise.all(Array.from({ length: 150 }, () => ask(`${address}/lamp`)));
    const checks = 'checks: [{ check: none, of: many/read, lane: quiet, times: 0 }]';
    await expect(small.client.runChecks({ file: checks, lane: 'quiet' })).rejects.toMatchObject({
      problem: { code: 'evidence-gone', status: 409 },
    });
    const since = new Date(Date.now() + 1).toISOString();
    expect(await small.client.runChecks({ file: checks, lane: 'quiet', since })).toMatchObject({ holds: true });
    await small.stop();
  });

  test('a body over the kept limit leaves its size and digest', async () => {
    const big = await startTestUpsetter({ maxBodyBytes: 1_000_000 });
    const address = await big.serve('big', 'post:\n  on: POST /\n  cases: [{ case: taken, answer: { none: true } }]');
    await fetch(address, { method: 'POST', body: 'x'.repeat(300_000) });
    const [call] = (await big.client.listCalls()).calls;
    expect((await big.client.readCall(call?.id ?? '')).requestBody).toEqual({
      sizeBytes: 300_000,
      text: null,
      base64: null,
      sha256: expect.stringMatching(/^[0-9a-f]{64}$/),
    });
    await big.stop();
  });
});
