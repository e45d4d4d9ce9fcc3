import { request } from 'node:http';
import { connect, type Socket } from 'node:net';
import { brotliCompressSync, deflateRawSync, deflateSync, gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

let upsetter: TestUpsetter;
let address: string;

beforeAll(async () => {
  upsetter = await startTestUpsetter();
  address = await upsetter.serve(
    'lighthouse',
    `
readLamp:
  on: GET /lamps/{id}
  cases:
    - case: lit
      when: { path id: { like: "L*" } }
      answer: { headers: { cache-control: no-store, x-seen: "\${call.headers['x-ask']}" }, json: { id: "\${call.path.id}", lane: "\${call.lane}" } }
lightLamp:
  on: POST /lamps
  cases:
    - case: lit
      when: { json $.colour: red }
      answer: { status: 201, json: { n: "\${next('lamp')}" } }
    - case: broken
      when: { json $.colour: blue }
      answer: { json: { n: "\${1 + call.json.colour}" } }
readLog:
  on: GET /log
  cases: [{ case: text, answer: { text: "Æ lit\\n" } }]
readPicture:
  on: GET /picture
  cases: [{ case: bytes, answer: { base64: AAEC, headers: { content-type: image/x-lamp } } }]
putOut:
  on: DELETE /lamps/{id}
  cases: [{ case: out, answer: { status: 204 } }]
tell:
  on: POST /signals
  cases:
    - case: heard
      when:
        any:
          - { json $.flag: "é", client address: { in: ["127.0.0.1", "::ffff:127.0.0.1"] } }
          - { body: "flag é" }
      answer: { json: { heard: true } }
refused:
  on: GET /refused
  cases: [{ case: refused, answer: { status: 403, problem: { title: Not for visitors } } }]
`,
  );
});
afterAll(() => upsetter.stop());

const post = (body: string, headers: Record<string, string> = {}) =>
  fetch(`${address}/lamps`, { method: 'POST', body, headers });

describe('a mock answers on its own port', () => {
  test('JSON with status and headers from the call', async () => {
    const response = await fetch(`${address}/lamps/L1`, { headers: { 'x-ask': 'aye', baggage: 'lane=night' } });
    expect(response.status).toBe(200);
    expect(response.headers.get('content-type')).toBe('application/json');
    expect(response.headers.get('cache-control')).toBe('no-store');
    expect(response.headers.get('x-seen')).toBe('aye');
    expect(await response.json()).toEqual({ id: 'L1', lane: 'night' });
  });

  test('text with its length in bytes', async () => {
    const response = await fetch(`${address}/log`);
    expect(response.headers.get('content-length')).toBe('7');
    expect(await response.text()).toBe('Æ lit\n');
  });

  test('bytes', async () => {
    const response = await fetch(`${address}/picture`);
    expect(response.headers.get('content-type')).toBe('image/x-lamp');
    expect(new Uint8Array(await response.arrayBuffer())).toEqual(new Uint8Array([0, 1, 2]));
  });

  test('nothing', async () => {
    const response = await fetch(`${address}/lamps/L1`, { method: 'DELETE' });
    expect([response.status, response.headers.get('content-length'), await response.text()]).toEqual([204, null, '']);
  });

  test('a problem document', async () => {
    const response = await fetch(`${address}/refused`);
    expect([response.status, response.headers.get('content-type'), await response.json()]).toEqual([
      403,
      'application/problem+json',
      { status: 403, title: 'Not for visitors' },
    ]);
  });

  test('HEAD as GET, without the body', async () => {
    const response = await fetch(`${address}/log`, { method: 'HEAD' });
    expect([response.status, response.headers.get('content-length'), await response.text()]).toEqual([200, '7', '']);
  });

  test('a chunked body is read whole before the case is chosen', async () => {
    const outgoing = request(`${address}/lamps`, { method: 'POST' });
    const answered = new Promise<number | undefined>((resolve) =>
      outgoing.on('response', (response) => resolve(response.resume().statusCode)),
    );
    outgoing.write('{"colour":');
    outgoing.end('"red"}');
    expect(await answered).toBe(201);
  });
});

describe('a call that no case answers', () => {
  test('gets a 404 problem that names the closest cases and the conditions that failed', async () => {
    const response = await post('{"colour":"green"}');
    const problem = await response.json();
    expect([response.status, response.headers.get('content-type')]).toEqual([404, 'application/problem+json']);
    expect(problem).toMatchObject({
      code: 'stray',
      service: 'lighthouse',
      closest: [
        {
          operation: 'lightLamp',
          case: 'lit',
          failed: [{ place: 'json $.colour', wanted: '"red"', found: '"green"' }],
        },
        { operation: 'lightLamp', case: 'broken' },
      ],
    });
    const { calls } = await upsetter.client.listCalls({ strays: true, limit: 1 });
    expect(calls[0]).toMatchObject({
      id: (problem as { call: string }).call,
      stray: true,
      answeredBy: 'nobody',
      operation: 'lightLamp',
      case: null,
    });
  });

  test('gets a 405 with Allow on a known path', async () => {
    const response = await fetch(`${address}/log`, { method: 'PUT' });
    expect([response.status, response.headers.get('allow')]).toEqual([405, 'GET, HEAD, OPTIONS']);
  });

  test('gets a 500 problem when an expression fails, and the mock goes on', async () => {
    const response = await post('{"colour":"blue"}');
    expect([response.status, await response.json()]).toMatchObject([
      500,
      { code: 'expression-failed', detail: expect.stringContaining('+ cannot add') },
    ]);
    expect((await fetch(`${address}/log`)).status).toBe(200);
  });
});

describe('CORS works from any page', () => {
  const origin = 'http://harbour.example';

  test('a preflight allows what it asks for', async () => {
    const headers = {
      origin,
      'access-control-request-method': 'POST',
      'access-control-request-headers': 'x-ask, content-type',
    };
    const response = await fetch(`${address}/lamps`, { method: 'OPTIONS', headers });
    expect(response.status).toBe(204);
    expect(response.headers.get('access-control-allow-origin')).toBe(origin);
    expect(response.headers.get('access-control-allow-methods')).toContain('POST');
    expect(response.headers.get('access-control-allow-headers')).toBe('x-ask, content-type');
  });

  test('answers and strays can be read, with credentials and headers', async () => {
    for (const path of ['/lamps/L1', '/nowhere']) {
      const response = await fetch(`${address}${path}`, { headers: { origin } });
      expect(response.headers.get('access-control-allow-origin')).toBe(origin);
      expect(response.headers.get('access-control-allow-credentials')).toBe('true');
      expect(response.headers.get('access-control-expose-headers')).toContain('content-type');
    }
  });

  describe('by rules', () => {
    const rules = `cors:
  origins: ["https://board.harbour.example", "http://*.quay.example:8080"]
  methods: [GET]
  headers: [x-ask]
  expose: [etag]
  credentials: false
  maxAge: 2m`;
    let ruled: string;
    beforeAll(async () => {
      ruled = await upsetter.serve('ruled', 'a: { on: GET /a, cases: [{ case: a, answer: { json: 1 } }] }', rules);
    });
    const asks = async (from: string, more: Record<string, string> = {}, method = 'GET') => {
      const { headers } = await fetch(`${ruled}/a`, { method, headers: { origin: from, ...more } });
      return Object.fromEntries([...headers].filter(([name]) => /^access-control|^vary/.test(name)));
    };

    test.each([
      'https://board.harbour.example',
      'http://north.quay.example:8080',
      'http://a.b.quay.example:8080',
      'HTTPS://BOARD.harbour.example',
    ])('%s is let in, and reads what is exposed', async (from) => {
      expect(await asks(from)).toEqual({
        'access-control-allow-origin': from,
        'access-control-expose-headers': 'etag',
        vary: 'origin',
      });
    });

    test.each([
      'http://board.harbour.example',
      'https://board.harbour.example.wreck.example',
      'http://quay.example:8080',
      'http://north.quay.example',
      'http://wreck.example/.quay.example:8080',
      'null',
    ])('%s is not', async (from) => {
      expect(await asks(from)).toEqual({ vary: 'origin' });
      expect(await asks(from, { 'access-control-request-method': 'GET' }, 'OPTIONS')).toEqual({ vary: 'origin' });
    });

    test('a preflight is told what the rules say, not what it asks for', async () => {
      const asked = { 'access-control-request-method': 'PUT', 'access-control-request-headers': 'x-other' };
      expect(await asks('https://board.harbour.example', asked, 'OPTIONS')).toMatchObject({
        'access-control-allow-methods': 'GET',
        'access-control-allow-headers': 'x-ask',
        'access-control-max-age': '120',
      });
    });

    test('cors: false lets no page in', async () => {
      ruled = await upsetter.serve(
        'ruled',
        'a: { on: GET /a, cases: [{ case: a, answer: { json: 1 } }] }',
        'cors: false',
      );
      expect(await asks(origin)).toEqual({});
    });
  });

  test('plain OPTIONS lists the methods', async () => {
    const response = await fetch(`${address}/lamps/L1`, { method: 'OPTIONS' });
    expect([response.status, response.headers.get('allow')]).toEqual([204, 'DELETE, GET, HEAD, OPTIONS']);
  });
});

describe('what is too much or no HTTP is refused, and the mock goes on', () => {
  test('a body over the limit gets 413 and is in the log', async () => {
    const response = await post('x'.repeat(100_001));
    expect([response.status, await response.json()]).toMatchObject([
      413,
      { code: 'too-large', detail: expect.stringContaining('100000 bytes') },
    ]);
    const { calls } = await upsetter.client.listCalls({ limit: 1 });
    expect(calls[0]).toMatchObject({ status: 413, trouble: expect.stringContaining('over the limit') });
  });

  test('a chunked body over the limit as well', async () => {
    const body = new ReadableStream({
      start: (controller) => {
        for (let i = 0; i < 3; i++) controller.enqueue(new TextEncoder().encode('x'.repeat(50_000)));
        controller.close();
      },
    });
    const response = await fetch(`${address}/lamps`, { method: 'POST', body, duplex: 'half' } as RequestInit);
    expect(response.status).toBe(413);
  });

  test('noise on the port gets 400', async () => {
    const { port } = new URL(address);
    const socket = connect(Number(port), '127.0.0.1');
    const answered = new Promise<string>((resolve) => socket.once('data', (data) => resolve(String(data))));
    socket.write('this is no HTTP\r\n\r\n');
    expect(await answered).toMatch(/^HTTP\/1.1 400 /);
    expect((await fetch(`${address}/log`)).status).toBe(200);
  });

  test('a caller that leaves in the middle of its body is logged as broken', async () => {
    const { port } = new URL(address);
    const ended = new AbortController();
    const states: string[] = [];
    let socket: Socket | undefined;
    const send = () => {
      socket = connect(Number(port), '127.0.0.1', () =>
        socket?.write('POST /lamps HTTP/1.1\r\nhost: a\r\ncontent-length: 50\r\n\r\n{"colour"'),
      );
    };
    for await (const { calls } of upsetter.client.followCalls(ended.signal, send)) {
      states.push(...calls.map((call) => call.state));
      if (states.at(-1) === 'in flight') socket?.destroy();
      if (states.at(-1) === 'broken') ended.abort();
    }
    expect(states).toEqual(['in flight', 'broken']);
  });
});

describe('a body is read as it is meant', () => {
  const signal = JSON.stringify({ flag: 'é' });
  const tell = async (body: Uint8Array<ArrayBuffer>, headers: Record<string, string>) => {
    const response = await fetch(`${address}/signals`, { method: 'POST', body, headers });
    return response.status;
  };
  test.each([
    ['gzip', gzipSync(signal)],
    ['x-gzip', gzipSync(signal)],
    ['br', brotliCompressSync(signal)],
    ['deflate', deflateSync(signal)],
    ['deflate', deflateRawSync(signal)],
    ['deflate, gzip', gzipSync(deflateSync(signal))],
    ['identity', Buffer.from(signal)],
  ])('packed with %s', async (coding, body) => {
    expect(await tell(body, { 'content-encoding': coding, 'content-type': 'application/json' })).toBe(200);
  });

  test('in the charset that its type names', async () => {
    expect(await tell(Buffer.from('flag é', 'latin1'), { 'content-type': 'text/plain; charset=iso-8859-1' })).toBe(200);
    expect(await tell(Buffer.from('flag é', 'latin1'), { 'content-type': 'text/plain' })).toBe(404);
  });

  test('and what cannot be unpacked is told, as it came', async () => {
    expect(await tell(Buffer.from(signal), { 'content-encoding': 'gzip' })).toBe(200);
    expect(await tell(gzipSync('x'.repeat(1_000_000)), { 'content-encoding': 'gzip' })).toBe(404);
    const { calls } = await upsetter.client.listCalls({ service: 'lighthouse', limit: 2 });
    const troubles = await Promise.all(calls.map(async ({ id }) => (await upsetter.client.why(id)).why.summary));
    expect(troubles.join()).toMatch(/over the limit of 100000 bytes when unpacked.*the body is not gzip/s);
  });
});
