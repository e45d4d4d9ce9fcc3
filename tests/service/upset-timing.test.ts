import { connect } from 'node:http2';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startRealService } from '../support/real-service.js';
import { startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';

let upsetter: TestUpsetter;
beforeAll(async () => {
  upsetter = await startTestUpsetter({ allowedHosts: ['127.0.0.1'] });
});
afterAll(() => upsetter.stop());

const LAMP = 'read: { on: GET /lamp, cases: [{ case: lit, answer: { text: lit } }] }';
const serve = (name: string, upset: string) => upsetter.serve(name, LAMP, `upsets: [${upset}]`);

/** Which of so many calls, one after the other, were upset: `x` for those that were. */
async function pattern(address: string, count: number, lane = 'main'): Promise<string> {
  let seen = '';
  for (let i = 0; i < count; i++) {
    const { status } = await fetch(`${address}/lamp`, { headers: { 'upsetter-lane': lane } });
    seen += status === 503 ? 'x' : '.';
  }
  return seen;
}

describe('an upset holds for some of the calls', () => {
  test.each([
    ['first: 3', 'xxx...'],
    ['every: 3', '..x..x'],
    ['first: 2, when: { method: POST }', '......'],
  ])('%s: %s, counted in each lane', async (timing, wanted) => {
    const name = timing.replaceAll(/\W+/g, '-').toLowerCase().slice(0, 20);
    const address = await serve(`of-${name}x`, `{ upset: out, answer: { status: 503 }, ${timing} }`);
    expect(await pattern(address, 6)).toBe(wanted);
    expect(await pattern(address, 6, 'other')).toBe(wanted);
  });

  test('and counts anew when it is switched on, is changed, or its lane is reset; not when something else is saved', async () => {
    const upset = '{ upset: out, answer: { status: 503 }, first: 1 }';
    const address = await serve('counted', upset);
    expect(await pattern(address, 2)).toBe('x.');
    await upsetter.serve('counted', LAMP.replace('case: lit', 'case: bright'), `upsets: [${upset}]`);
    expect(await pattern(address, 2)).toBe('..');
    await upsetter.client.switchUpset('counted', 'out', false);
    await upsetter.client.switchUpset('counted', 'out', true);
    expect(await pattern(address, 2)).toBe('x.');
    await serve('counted', upset.replace('first: 1', 'first: 2'));
    expect(await pattern(address, 3)).toBe('xx.');
    await upsetter.client.resetLane('main');
    expect(await pattern(address, 3)).toBe('xx.');
    await upsetter.client.upset('counted', { upset: 'out', answer: { status: 503 }, first: 1 });
    expect(await pattern(address, 2)).toBe('x.');
  });

  test("during a time that goes by the lane's clock, again and again", async () => {
    const address = await serve(
      'windows',
      '{ upset: out, answer: { status: 503 }, during: { from: 1h, for: 1h, again: 4h } }',
    );
    const move = (lane: string, advance: string) => upsetter.client.setLaneClock(lane, { advance });
    expect(await pattern(address, 1, 'early')).toBe('.');
    await move('early', '90m');
    expect(await pattern(address, 1, 'early')).toBe('x');
    expect(await pattern(address, 1, 'late')).toBe('.');
    await move('early', '1h');
    expect(await pattern(address, 1, 'early')).toBe('.');
    await move('early', '3h');
    expect(await pattern(address, 1, 'early')).toBe('x');
    await upsetter.client.resetLane('early');
    expect(await pattern(address, 1, 'early')).toBe('.');
  });

  test.each([
    ['first: 0', '`first` is a number of calls, from 1'],
    ['every: 1', '`every` is a number of calls, from 2'],
    ['first: 2, share: 50%', 'says which calls are upset: leave the others out'],
    ['during: { from: 30s, for: 40s, again: 60s }', 'not shorter than `from` and `for` together'],
    ['during: { from: 30s }', 'a duration such as'],
    ['pace: 20', 'a pace is a rate such as'],
    ['pace: { pieces: 1, gap: 1s }', '`pieces` is a number from 2'],
  ])('%s is refused: %s', async (timing, reason) => {
    await expect(serve('refused', `{ upset: out, delay: 1ms, ${timing} }`)).rejects.toMatchObject({
      problem: { problems: [{ message: expect.stringContaining(reason) }] },
    });
  });
});

const LONG = '0123456789'.repeat(4);
const FORMS = `
whole: { on: GET /whole, cases: [{ case: whole, answer: { text: "${LONG}" } }] }
packed: { on: GET /packed, cases: [{ case: packed, answer: { text: "${LONG}", serve: [gzip] } }] }
events: { on: GET /events, cases: [{ case: events, answer: { events: [{ data: one }, { data: two }, { data: three }, { data: four }] } }] }
relayed: { on: GET /relayed, cases: [{ case: relayed, answer: { relay: true } }] }
take: { on: POST /tickets, cases: [{ case: taken, answer: { json: { n: "\${next('ticket')}", seen: "\${state.last}" } }, then: [{ set: { last: "\${call.json.by}" } }] }] }
`;

/** The body, and how long the whole answer took. */
async function readPieces(url: string): Promise<{ text: string; tookMs: number }> {
  const startedMs = performance.now();
  const response = await fetch(url, { headers: { 'accept-encoding': 'identity' } });
  const text = await response.text();
  return { text, tookMs: performance.now() - startedMs };
}

describe('a pace slows the body down, whatever its form', () => {
  const GAPS_MS = 3 * 40;
  let address = '';
  let stop: () => Promise<void>;
  beforeAll(async () => {
    const real = await startRealService((_, response) => response.end(LONG));
    stop = real.stop;
    address = await upsetter.serve(
      'paced',
      FORMS,
      `state: { last: nobody }\nlisten: { port: 0, http2: true }\nupstream: ${real.url}\nupsets: [{ upset: drip, pace: { pieces: 4, gap: 40ms } }]`,
    );
  });
  afterAll(() => stop());

  test.each([
    ['whole', LONG],
    ['packed', LONG],
    ['events', 'data: one\n\ndata: two\n\ndata: three\n\ndata: four\n\n'],
    ['relayed', LONG],
  ])('%s', async (path, text) => {
    const read = await readPieces(`${address}/${path}`);
    expect(read.text).toBe(text);
    expect(read.tookMs).toBeGreaterThan(GAPS_MS - 20);
    expect((await upsetter.client.listCalls({ service: 'paced', limit: 1 })).calls[0]).toMatchObject({
      upsets: ['drip'],
    });
  });

  test('over HTTP/2', async () => {
    const session = connect(address);
    const stream = session.request({ ':path': '/whole' });
    const pieces: string[] = [];
    for await (const piece of stream) pieces.push(String(piece));
    session.close();
    expect(pieces).toEqual(['0123456789', '0123456789', '0123456789', '0123456789']);
  });

  test('a rate lets no more pass than it says; of several paces the slowest counts', async () => {
    const upsets = 'upsets: [{ upset: fast, pace: 1MB/s }, { upset: slow, pace: 400B/s }]';
    const rated = await upsetter.serve('rated', FORMS.split('\n')[1] ?? '', upsets);
    expect((await readPieces(`${rated}/whole`)).tookMs).toBeGreaterThan(90);
  });

  test('a caller that leaves in between breaks its call, nothing else', async () => {
    const slow = 'upsets: [{ upset: drip, pace: { pieces: 4, gap: 1m } }]';
    const left = await upsetter.serve('left', FORMS.split('\n')[1] ?? '', slow);
    const controller = new AbortController();
    const response = await fetch(`${left}/whole`, { signal: controller.signal });
    controller.abort();
    await expect(response.text()).rejects.toThrow();
    await until(async () =>
      (await upsetter.client.listCalls({ service: 'left', limit: 1 })).calls.some(({ state }) => state === 'broken'),
    );
    await upsetter.client.calm('left');
    expect((await readPieces(`${left}/whole`)).text).toBe(LONG);
  });

  test('200 callers at once: no step is lost or doubled, though answers drip', async () => {
    const answers = await Promise.all(
      Array.from({ length: 200 }, async (_, i) => {
        const response = await fetch(`${address}/tickets`, {
          method: 'POST',
          headers: { 'upsetter-lane': 'crowd' },
          body: JSON.stringify({ by: `caller ${i}` }),
        });
        return { by: `caller ${i}`, ...((await response.json()) as { n: number; seen: string }) };
      }),
    );
    const inOrder = answers.toSorted((a, b) => a.n - b.n);
    expect(inOrder.map(({ n }) => n)).toEqual(inOrder.map((_, i) => i + 1));
    expect(inOrder.map(({ seen }) => seen)).toEqual(['nobody', ...inOrder.slice(0, -1).map(({ by }) => by)]);
  });
});
