import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

let upsetter: TestUpsetter;
let berths: string;
let tides: string;
let listener: Server;
const notified: string[] = [];

beforeAll(async () => {
  listener = createServer((incoming, outgoing) => {
    notified.push(String(incoming.headers['upsetter-lane'] ?? 'main'));
    outgoing.end();
  });
  await new Promise<void>((resolve) => listener.listen(0, '127.0.0.1', resolve));
  const notify = `http://127.0.0.1:${(listener.address() as AddressInfo).port}/`;
  upsetter = await startTestUpsetter();
  berths = await upsetter.serve(
    'berth-desk',
    `
hold:
  on: POST /berths/{id}/hold
  cases:
    - case: held already
      when: { "state held[\${call.path.id}]": { present: true } }
      answer: { status: 409, none: true }
    - case: held
      answer: { status: 201, json: { hold: "\${next('hold')}", ref: "\${uuid()}", at: "\${now}" } }
      then:
        - set: { "held[\${call.path.id}]": "\${call.lane}", last: "\${call.path.id}" }
        - insert: { into: bookings, row: { id: "\${call.path.id}" } }
remind:
  on: POST /remind
  cases:
    - case: later
      answer: { status: 202, none: true }
      then: [{ callback: { to: "${notify}", after: 10m } }]
readNow:
  on: GET /now
  cases: [{ case: now, answer: { json: { now: "\${now}", received: "\${call.at}" } } }]
`,
    'state: { held: {}, last: none }\ndatasets: { bookings: { key: id, rows: [] } }\nlane: "${call.headers[\'x-test\']}"',
  );
  tides = await upsetter.serve(
    'tide-office',
    'readNow: { on: GET /now, cases: [{ case: now, answer: { json: { now: "${now}" } } }] }',
  );
});
afterAll(async () => {
  await upsetter.stop();
  listener.close();
});

const hold = async (id: string, lane: string) => {
  const response = await fetch(`${berths}/berths/${id}/hold`, { method: 'POST', headers: { 'upsetter-lane': lane } });
  return {
    status: response.status,
    body: (await response.json().catch(() => null)) as { hold: number; ref: string } | null,
  };
};
const nowIn = async (address: string, lane: string) =>
  ((await (await fetch(`${address}/now`, { headers: { 'upsetter-lane': lane } })).json()) as { now: string }).now;

describe('a lane', () => {
  test('is named by header, else by baggage, else by the service, else it is main', async () => {
    const laneOf = async (headers: Record<string, string>) => {
      await fetch(`${berths}/now`, { headers });
      const { calls } = await upsetter.client.listCalls({ service: 'berth-desk', limit: 1 });
      return calls[0]?.lane;
    };
    expect(await laneOf({ 'upsetter-lane': 'a', baggage: 'lane=b', 'x-test': 'c' })).toBe('a');
    expect(await laneOf({ baggage: 'user=1,lane=b', 'x-test': 'c' })).toBe('b');
    expect(await laneOf({ 'x-test': 'c' })).toBe('c');
    expect(await laneOf({})).toBe('main');
  });

  test('can be looked at: what is another there than at the start', async () => {
    await hold('N7', 'look');
    const lane = await upsetter.client.readLane('look');
    expect(lane).toMatchObject({ name: 'look', calls: 1, clock: { isFrozen: false, aheadMs: 0 } });
    expect(lane.services).toEqual([
      {
        service: 'berth-desk',
        calls: 1,
        state: { held: { N7: 'look' }, last: 'N7' },
        rows: { bookings: 1 },
        counters: { hold: 1 },
      },
    ]);
  });

  test('begins anew when it is reset, draws and counters too; others stay', async () => {
    const first = await hold('N8', 'again');
    expect((await hold('N8', 'again')).status).toBe(409);
    await hold('N8', 'other');
    await upsetter.client.resetLane('again');
    expect(await hold('N8', 'again')).toMatchObject({ status: 201, body: { hold: 1, ref: first.body?.ref } });
    expect((await hold('N8', 'other')).status).toBe(409);
  });

  test('main can be reset, too, but not dropped', async () => {
    await hold('S1', 'main');
    await upsetter.client.resetLane('main');
    expect((await hold('S1', 'main')).status).toBe(201);
    await expect(upsetter.client.dropLane('main')).rejects.toMatchObject({ problem: { code: 'wrong-use' } });
  });

  test('is gone when it is dropped, and made anew by its next call', async () => {
    await hold('N9', 'short');
    await upsetter.client.dropLane('short');
    await expect(upsetter.client.readLane('short')).rejects.toMatchObject({ problem: { code: 'lane-unknown' } });
    expect((await hold('N9', 'short')).status).toBe(201);
  });

  test('gives up its callbacks when it is reset', async () => {
    const remind = (lane: string) => fetch(`${berths}/remind`, { method: 'POST', headers: { 'upsetter-lane': lane } });
    await Promise.all([remind('waiting'), remind('patient')]);
    await upsetter.client.resetLane('waiting');
    const stateOf = async (lane: string) => {
      const { calls } = await upsetter.client.listCalls({ service: 'berth-desk', lane, limit: 1 });
      return (await upsetter.client.readCall(calls[0]?.id ?? '')).callbackList[0]?.state;
    };
    expect([await stateOf('waiting'), await stateOf('patient'), notified]).toEqual(['given up', 'waiting', []]);
  });

  test('is checked from its last reset on', async () => {
    const file = 'checks: [{ check: held once, of: berth-desk/hold, times: 1 }]';
    await hold('W1', 'checked');
    await hold('W2', 'checked');
    await upsetter.client.resetLane('checked');
    await hold('W3', 'checked');
    expect(await upsetter.client.runChecks({ file, lane: 'checked' })).toMatchObject({ holds: true });
    expect(await upsetter.client.runChecks({ file, lane: 'checked', since: '1m' })).toMatchObject({ holds: false });
  });
});

describe("a lane's clock", () => {
  test('stands still, is set on, and shows real time again, on every service alike', async () => {
    await upsetter.client.setLaneClock('clocked', { freeze: '2026-03-02T09:30:00Z' });
    expect(await nowIn(berths, 'clocked')).toBe('2026-03-02T09:30:00.000Z');
    expect(await nowIn(tides, 'clocked')).toBe('2026-03-02T09:30:00.000Z');
    await upsetter.client.setLaneClock('clocked', { advance: '2d' });
    expect(await nowIn(tides, 'clocked')).toBe('2026-03-04T09:30:00.000Z');
    const { now } = await upsetter.client.setLaneClock('clocked', { release: true });
    expect(Math.abs(Date.parse(now) - Date.now())).toBeLessThan(60_000);
  });

  test('goes on from where it was set; others show real time, and so does when a call came', async () => {
    const { aheadMs } = await upsetter.client.setLaneClock('ahead', { advance: '6h' });
    expect(aheadMs).toBe(6 * 3_600_000);
    expect(Date.parse(await nowIn(berths, 'ahead')) - Date.now()).toBeGreaterThan(5.9 * 3_600_000);
    expect(Math.abs(Date.parse(await nowIn(berths, 'aside')) - Date.now())).toBeLessThan(60_000);
    const response = await fetch(`${berths}/now`, { headers: { 'upsetter-lane': 'ahead' } });
    const { received } = (await response.json()) as { received: string };
    expect(Math.abs(Date.parse(received) - Date.now())).toBeLessThan(60_000);
  });

  test.each([
    [{ advance: 'soon' }, /a duration such as 90m/],
    [{ freeze: 'noon' }, /an RFC 3339 date/],
  ])('what is none is refused: %j', async (change, message) => {
    await expect(upsetter.client.setLaneClock('bad', change)).rejects.toThrow(message);
  });
});

test('a service that names lanes by what is not there yet is refused', async () => {
  await expect(
    upsetter.serve('early', 'a: { on: GET /a, cases: [] }', 'lane: "${call.json.test}"'),
  ).rejects.toMatchObject({
    problem: { problems: [{ message: expect.stringContaining('call.json is not there yet') }] },
  });
});
