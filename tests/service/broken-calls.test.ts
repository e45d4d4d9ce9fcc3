import { request } from 'node:http';
import { connect } from 'node:http2';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';

let upsetter: TestUpsetter;
beforeAll(async () => {
  upsetter = await startTestUpsetter();
});
afterAll(() => upsetter.stop());

const OPERATIONS = `
count: { on: POST /count, cases: [{ case: counted, answer: { json: { n: "\${next('n')}" } }, then: [{ set: { last: "\${call.id}" } }] }] }
last: { on: GET /last, cases: [{ case: told, answer: { json: { n: "\${next('n')}", last: "\${state.last}" } } }] }
`;
const serve = (name: string, broken: string, listen = '{ port: 0 }') =>
  upsetter.serve(
    name,
    OPERATIONS,
    `state: { last: none }\nlisten: ${listen}\nupsets: [{ upset: broken, of: [count], break: ${broken} }]`,
  );

/** What a caller of HTTP/1.1 sees: a status, or how the connection ended. */
function post(address: string, waitMs = 2_000): Promise<string> {
  return new Promise((resolve) => {
    const outgoing = request(`${address}/count`, { method: 'POST', agent: false, timeout: waitMs });
    outgoing.on('response', (response) => resolve(String(response.statusCode)));
    outgoing.on('timeout', () => {
      resolve('silence');
      outgoing.destroy();
    });
    outgoing.on('error', (error: NodeJS.ErrnoException) => resolve(error.message));
    outgoing.end();
  });
}

const last = async (address: string) => (await (await fetch(`${address}/last`)).json()) as { n: number; last: string };

describe('a call that breaks', () => {
  test.each([
    ['hangup', 'socket hang up'],
    ['reset', 'read ECONNRESET'],
  ])('by %s has no answer, and what it changes is kept', async (how, seen) => {
    const address = await serve(how, how);
    expect(await post(address)).toBe(seen);
    const { n, last: id } = await last(address);
    expect([n, id.length]).toEqual([2, 36]);
    const call = await until(async () => {
      const { calls } = await upsetter.client.listCalls({ service: how, operation: 'count', limit: 1 });
      return calls[0]?.state === 'done' && calls[0];
    });
    expect(call).toMatchObject({ answeredBy: 'upset', upsets: ['broken'], status: null, stray: false });
  });

  test('by silence is held until its caller leaves', async () => {
    const address = await serve('silence', 'silence');
    expect(await post(address, 150)).toBe('silence');
    expect((await last(address)).n).toBe(2);
  });

  test('that is not kept changes nothing: the server failed before it did anything', async () => {
    const address = await serve('unkept', '{ as: reset, kept: no }');
    expect(await post(address)).toBe('read ECONNRESET');
    expect(await last(address)).toEqual({ n: 1, last: 'none' });
  });

  test.each(['hangup', 'reset'])('over HTTP/2 ends its stream by %s; the session goes on', async (how) => {
    const address = await serve(`streams-${how}`, how, '{ port: 0, http2: true }');
    const session = connect(address);
    const code = await new Promise<number>((resolve) => {
      const stream = session.request({ ':path': '/count', ':method': 'POST' });
      stream.on('error', () => {});
      stream.on('close', () => resolve(stream.rstCode ?? -1));
      stream.end();
    });
    expect(code).toBe(how === 'reset' ? 2 : 0);
    const status = await new Promise((resolve) => {
      const stream = session.request({ ':path': '/last' });
      stream.on('response', (headers) => resolve(headers[':status']));
      stream.resume();
    });
    expect(status).toBe(200);
    session.close();
  });

  test.each([
    ['noise', 'a break is silence, hangup, reset; others are not supported yet'],
    ['{ as: reset, kept: maybe }', '`kept` is no'],
  ])('by %s is refused with its line', async (how, message) => {
    await expect(serve('wrong', how)).rejects.toMatchObject({
      problem: { problems: [{ line: 8, message: expect.stringContaining(message) }] },
    });
  });
});
