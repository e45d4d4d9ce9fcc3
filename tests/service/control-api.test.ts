import { request } from 'node:http';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

let upsetter: TestUpsetter;
let address: string;

beforeAll(async () => {
  upsetter = await startTestUpsetter();
  address = await upsetter.serve(
    'lighthouse',
    'read:\n  on: GET /lamp/{id}\n  cases: [{ case: lit, answer: { text: lit } }]',
  );
});
afterAll(() => upsetter.stop());

const get = (path: string, headers: Record<string, string> = {}) =>
  fetch(`${upsetter.running.address}${path}`, { headers });

/** fetch does not let its caller choose the Host header. */
function getAs(host: string): Promise<number | undefined> {
  return new Promise((resolve, reject) => {
    request(`${upsetter.running.address}/api/services`, { headers: { host } }, (response) =>
      resolve(response.resume().statusCode),
    )
      .on('error', reject)
      .end();
  });
}

describe('the control API', () => {
  test('describes itself in OpenAPI 3.1', async () => {
    const document = (await (await get('/api/openapi.json')).json()) as {
      openapi: string;
      paths: Record<string, object>;
    };
    expect(document.openapi).toBe('3.1.0');
    expect(Object.keys(document.paths)).toEqual(
      expect.arrayContaining(['/api/services/{name}', '/api/calls/{id}/why', '/api/checks/run', '/health']),
    );
  });

  test.each([
    ['GET', '/api/nothing', 404, 'route-unknown'],
    ['GET', '/api/services/nobody', 404, 'service-unknown'],
    ['GET', '/api/calls/0123abcd', 404, 'call-unknown'],
    ['GET', '/api/calls?limit=many', 400, 'request-refused'],
    ['PUT', '/api/services/UPPER', 400, 'request-refused'],
    ['POST', '/api/checks/run', 400, 'request-refused'],
  ])('%s %s is a problem document with a stable code', async (method, path, status, code) => {
    const response = await fetch(`${upsetter.running.address}${path}`, {
      method,
      ...(method === 'GET' ? {} : { body: '{}', headers: { 'content-type': 'application/json' } }),
    });
    expect([response.status, response.headers.get('content-type')]).toEqual([
      status,
      'application/problem+json; charset=utf-8',
    ]);
    expect(await response.json()).toMatchObject({ code, status, detail: expect.any(String), next: expect.any(String) });
  });

  test('is served to loopback names only, whatever name the caller gives it', async () => {
    expect(await getAs('harbour.example:4600')).toBe(403);
    expect(await getAs('localhost:4600')).toBe(200);
    expect((await get('/api/services', { origin: 'http://harbour.example' })).status).toBe(403);
  });

  test('does not start on another address than loopback', async () => {
    await expect(startTestUpsetter({ host: '0.0.0.0' })).rejects.toMatchObject({ code: 'address-refused' });
  });

  test('says that its port is taken', async () => {
    const port = Number(new URL(upsetter.running.address).port);
    await expect(startTestUpsetter({ port })).rejects.toMatchObject({ code: 'port-in-use' });
  });

  test('serves the console under a strict policy with a new nonce each time', async () => {
    const pages = await Promise.all([get('/services'), get('/services')]);
    const policies = pages.map((page) => page.headers.get('content-security-policy') ?? '');
    expect(policies[0]).toContain("default-src 'none'");
    expect(policies[0]).toContain("script-src 'self'");
    expect(policies[0]).not.toContain('unsafe');
    const nonces = policies.map((policy) => /'nonce-([^']+)'/.exec(policy)?.[1]);
    expect(new Set(nonces).size).toBe(2);
    expect(await pages[0]?.text()).toContain(nonces[0]);
  });

  test('health tells what it stands on', async () => {
    expect(await (await get('/health')).json()).toMatchObject({
      store: 'memory',
      storeAway: false,
      callsWaiting: expect.any(Number),
    });
  });
});

describe('one call is found', () => {
  test('by its id, or by the end of it', async () => {
    await fetch(`${address}/lamp/7`);
    const [call] = (await upsetter.client.listCalls({ limit: 1 })).calls;
    const id = call?.id ?? '';
    expect((await upsetter.client.readCall(id.slice(-8))).id).toBe(id);
    expect((await upsetter.client.readCall(id)).url).toBe('/lamp/7');
  });

  test('an end that several have is refused', async () => {
    await Promise.all([fetch(`${address}/lamp/1`), fetch(`${address}/lamp/2`)]);
    const [call] = (await upsetter.client.listCalls({ limit: 1 })).calls;
    await expect(upsetter.client.readCall((call?.id ?? '').slice(0, 8))).rejects.toMatchObject({
      problem: { code: 'call-ambiguous' },
    });
  });
});

describe('the stream of calls', () => {
  interface Heard {
    readonly id: string;
    readonly urls: string[];
  }

  /** Reads the stream until calls with all these paths were told; gives the last event id and every path told. */
  async function listen(
    paths: readonly string[],
    lastEventId: string | null,
    onOpen: () => Promise<unknown> = async () => {},
  ): Promise<Heard> {
    const ended = new AbortController();
    const response = await fetch(`${upsetter.running.address}/api/calls/stream`, {
      headers: { accept: 'text/event-stream', ...(lastEventId === null ? {} : { 'last-event-id': lastEventId }) },
      signal: ended.signal,
    });
    const urls: string[] = [];
    let id = '';
    let opened = false;
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
      const text = new TextDecoder().decode(chunk);
      id = /^id: ?(.+)$/m.exec(text)?.[1] ?? id;
      for (const [, url] of text.matchAll(/"url":"([^"]+)"/g)) urls.push(url ?? '');
      if (!opened) {
        opened = true;
        await onOpen();
      }
      if (paths.every((path) => urls.includes(path))) break;
    }
    ended.abort();
    return { id, urls };
  }

  test('goes on without a gap after a break', async () => {
    const first = await listen(['/lamp/s1'], null, () => fetch(`${address}/lamp/s1`));
    await fetch(`${address}/lamp/s2`);
    await fetch(`${address}/lamp/s3`);
    const second = await listen(['/lamp/s2', '/lamp/s3'], first.id);
    expect(second.urls).not.toContain('/lamp/s1');
  });

  test('of another life of the process starts anew', async () => {
    await fetch(`${address}/lamp/old`);
    const heard = await listen(['/lamp/new'], '1-0', () => fetch(`${address}/lamp/new`));
    expect(heard.urls).not.toContain('/lamp/old');
  });

  test('is followed by the client', async () => {
    const ended = new AbortController();
    const urls: string[] = [];
    for await (const { calls } of upsetter.client.followCalls(
      ended.signal,
      () => void fetch(`${address}/lamp/followed`),
    )) {
      urls.push(...calls.map((call) => call.url));
      if (urls.includes('/lamp/followed')) ended.abort();
    }
    expect(urls).toContain('/lamp/followed');
  });
});
