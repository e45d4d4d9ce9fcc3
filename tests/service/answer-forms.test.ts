import { createServer, type IncomingHttpHeaders, type IncomingMessage, request, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { brotliDecompressSync, gunzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fileOf, startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';

let upsetter: TestUpsetter;
let address: string;
let upstream: Server;
const heard: { url: string; headers: IncomingMessage['headers']; body: string }[] = [];

const OPERATIONS = `
readPage:
  on: GET /page
  cases: [{ case: page, answer: { html: "<p>\${call.query.name}</p>" } }]
readForm:
  on: GET /form
  cases: [{ case: form, answer: { form: { berth: "\${call.query.berth}", tag: [a, "b c"], none: "\${call.query.none}" } } }]
logIn:
  on: POST /session
  cases:
    - case: in
      answer: { status: 201, cookies: { sid: { value: "\${next('sid')}", path: /, maxAge: 1h, sameSite: lax, httpOnly: true }, quay: north }, none: true }
readTide:
  on: GET /tide
  cases:
    - case: by accept
      answer:
        headers: { x-office: north }
        as:
          application/json: { height: 2.4, at: "\${call.query.at}" }
          application/xml: "<tide><at>\${call.query.at}</at></tide>"
          text/csv: "height;at\\n2.4;\${call.query.at}\\n"
readChart:
  on: GET /chart
  cases: [{ case: chart, answer: { file: ./chart.png, serve: [etag, range] } }]
readNotice:
  on: GET /notice
  cases: [{ case: notice, answer: { text: ./notice.txt, serve: [etag, gzip] } }]
watchTide:
  on: GET /tides
  cases:
    - case: three
      when: { query last: close }
      answer:
        events:
          list:
            - { comment: "hello", retry: 2s }
            - { event: tide, id: 1, data: { height: "\${2 + 0.4}" } }
            - { data: "two\\nlines", after: 40ms }
    - case: endless
      answer: { events: { gap: 20ms, last: again, list: [{ data: high }, { data: low }] } }
readRealBerth:
  on: GET /berths/{id}
  cases:
    - case: changed
      when: { path id: N7 }
      answer:
        status: 203
        headers: { x-from: mock }
        relay: { headers: { x-key: "k-\${call.path.id}" }, without: [authorization], path: "/real/\${call.path.id}?deep=1" }
    - case: as it is
      answer: { relay: true }
`;
const PNG = Buffer.from(Array.from({ length: 100 }, (_, i) => i));
const NOTICE = 'Gull Rock gauge: readings may be late.\n'.repeat(50);

beforeAll(async () => {
  upstream = createServer((incoming, outgoing) => {
    let body = '';
    incoming.on('data', (chunk) => (body += String(chunk)));
    incoming.on('end', () => {
      heard.push({ url: incoming.url ?? '', headers: incoming.headers, body });
      outgoing.writeHead(200, { 'content-type': 'application/json', 'x-from': 'real' });
      outgoing.end(JSON.stringify({ real: incoming.url }));
    });
  });
  await new Promise<void>((resolve) => upstream.listen(0, '127.0.0.1', resolve));
  upsetter = await startTestUpsetter();
  const url = `http://127.0.0.1:${(upstream.address() as AddressInfo).port}`;
  const files = {
    './chart.png': { kind: 'base64' as const, content: PNG.toString('base64') },
    './notice.txt': { kind: 'text' as const, content: NOTICE },
  };
  const saved = await upsetter.client.saveService('forms', fileOf('forms', OPERATIONS, `upstream: ${url}`), { files });
  address = saved.address ?? '';
});
afterAll(async () => {
  await upsetter.stop();
  upstream.close();
});

const get = (path: string, headers: Record<string, string> = {}) => fetch(address + path, { headers });
/** As it is on the wire: fetch would unpack it. */
const getRaw = (path: string, headers: Record<string, string>) =>
  new Promise<{ headers: IncomingMessage['headers']; body: Buffer; status: number }>((resolve, reject) => {
    request(address + path, { headers }, (incoming) => {
      const chunks: Buffer[] = [];
      incoming.on('data', (chunk: Buffer) => chunks.push(chunk));
      incoming.on('end', () =>
        resolve({ headers: incoming.headers, body: Buffer.concat(chunks), status: incoming.statusCode ?? 0 }),
      );
    })
      .on('error', reject)
      .end();
  });

describe('answers have many forms', () => {
  test('HTML, in which what a call brings is text', async () => {
    const response = await get('/page?name=%3Cb%3EPetrel');
    expect(response.headers.get('content-type')).toBe('text/html; charset=utf-8');
    expect(await response.text()).toBe('<p>&lt;b&gt;Petrel</p>');
  });

  test('a form', async () => {
    const response = await get('/form?berth=N%207');
    expect(response.headers.get('content-type')).toBe('application/x-www-form-urlencoded');
    expect(await response.text()).toBe('berth=N+7&tag=a&tag=b+c');
  });

  test('cookies with their attributes', async () => {
    const response = await fetch(`${address}/session`, { method: 'POST' });
    expect(response.headers.getSetCookie()).toEqual([
      'sid=1; Path=/; Max-Age=3600; SameSite=Lax; HttpOnly',
      'quay=north',
    ]);
  });

  test('a file beside, with the type of its ending', async () => {
    const response = await get('/chart');
    expect(response.headers.get('content-type')).toBe('image/png');
    expect(Buffer.from(await response.arrayBuffer())).toEqual(PNG);
  });
});

describe('what the caller accepts chooses among several types (RFC 9110, 12.5.1)', () => {
  test.each([
    [undefined, 'application/json', '{"height":2.4,"at":"<x>"}'],
    ['*/*', 'application/json', '{"height":2.4,"at":"<x>"}'],
    ['application/xml', 'application/xml', '<tide><at>&lt;x&gt;</at></tide>'],
    ['application/json;q=0.5, text/csv', 'text/csv', 'height;at\n2.4;<x>\n'],
    ['text/*;q=0.3, application/xml;q=0.2', 'text/csv', 'height;at\n2.4;<x>\n'],
    ['application/json;q=0, */*;q=0.1', 'application/xml', '<tide><at>&lt;x&gt;</at></tide>'],
  ])('%s: %s', async (accept, type, body) => {
    const response = await getRaw('/tide?at=%3Cx%3E', accept === undefined ? {} : { accept });
    expect(response.headers['content-type']).toBe(type);
    expect(response.headers['vary']).toBe('accept');
    expect(response.headers['x-office']).toBe('north');
    expect(response.body.toString()).toBe(body);
  });

  test('none of them: 406, with what there is', async () => {
    const response = await get('/tide', { accept: 'image/png' });
    expect(response.status).toBe(406);
    expect(await response.json()).toMatchObject({ detail: 'there is application/json, application/xml, text/csv' });
  });
});

describe('parts of a body (RFC 9110, 14)', () => {
  test.each([
    ['bytes=0-4', 206, 'bytes 0-4/100', [0, 1, 2, 3, 4]],
    ['bytes=98-', 206, 'bytes 98-99/100', [98, 99]],
    ['bytes=-2', 206, 'bytes 98-99/100', [98, 99]],
    ['bytes=95-200', 206, 'bytes 95-99/100', [95, 96, 97, 98, 99]],
    ['bytes=200-', 416, 'bytes */100', []],
  ])('%s', async (range, status, contentRange, bytes) => {
    const response = await get('/chart', { range });
    expect(response.status).toBe(status);
    expect(response.headers.get('content-range')).toBe(contentRange);
    expect([...new Uint8Array(await response.arrayBuffer())]).toEqual(bytes);
  });

  test.each(['lines=1-2', 'bytes=9-1', 'bytes=x'])('%s is no range: the whole', async (range) => {
    const response = await get('/chart', { range });
    expect([response.status, response.headers.get('accept-ranges')]).toEqual([200, 'bytes']);
  });

  test('several come as multipart/byteranges', async () => {
    const response = await get('/chart', { range: 'bytes=0-1,50-51' });
    expect(response.headers.get('content-type')).toBe('multipart/byteranges; boundary=upsetter-part');
    const text = Buffer.from(await response.arrayBuffer()).toString('latin1');
    expect(text).toBe(
      '--upsetter-part\r\ncontent-type: image/png\r\ncontent-range: bytes 0-1/100\r\n\r\n\x00\x01\r\n' +
        '--upsetter-part\r\ncontent-type: image/png\r\ncontent-range: bytes 50-51/100\r\n\r\n23\r\n--upsetter-part--\r\n',
    );
  });

  test('of the very body that the caller knows (If-Range), or the whole', async () => {
    const etag = (await get('/chart')).headers.get('etag') ?? '';
    expect((await get('/chart', { range: 'bytes=0-1', 'if-range': etag })).status).toBe(206);
    expect((await get('/chart', { range: 'bytes=0-1', 'if-range': '"other"' })).status).toBe(200);
    expect((await get('/chart', { 'if-none-match': etag })).status).toBe(304);
  });
});

describe('a body is packed as the caller likes (RFC 9110, 12.5.3)', () => {
  test.each<[string, string | undefined, (body: Buffer) => Buffer]>([
    ['gzip', 'gzip', gunzipSync],
    ['gzip;q=0.5, br', 'br', brotliDecompressSync],
    ['identity', undefined, (body) => body],
    ['zstd', undefined, (body) => body],
  ])('%s', async (accepted, coding, unpack) => {
    const response = await getRaw('/notice', { 'accept-encoding': accepted });
    expect(response.headers['content-encoding']).toBe(coding);
    expect(response.headers['vary']).toBe('accept-encoding');
    expect(Number(response.headers['content-length'])).toBe(response.body.length);
    expect(unpack(response.body).toString()).toBe(NOTICE);
  });

  test('its entity tag is weak then, and still known', async () => {
    const { headers } = await getRaw('/notice', { 'accept-encoding': 'gzip' });
    expect(headers['etag']).toMatch(/^W\/"/);
    const again = await getRaw('/notice', { 'accept-encoding': 'gzip', 'if-none-match': headers['etag'] ?? '' });
    expect(again.status).toBe(304);
  });
});

describe('events are streamed', () => {
  test('each at its time, in their form', async () => {
    const startedMs = performance.now();
    const response = await get('/tides?last=close');
    expect(response.headers.get('content-type')).toBe('text/event-stream');
    expect(response.headers.get('cache-control')).toBe('no-store');
    expect(await response.text()).toBe(
      ': hello\nretry: 2000\n\nevent: tide\nid: 1\ndata: {"height":2.4}\n\ndata: two\ndata: lines\n\n',
    );
    expect(performance.now() - startedMs).toBeGreaterThan(35);
  });

  test('again and again, until the caller leaves; what was sent stands on the call', async () => {
    const leaving = new AbortController();
    const response = await fetch(`${address}/tides`, { signal: leaving.signal });
    let text = '';
    const reader = response.body?.getReader();
    while (!text.includes('low\n\ndata: high')) text += new TextDecoder().decode((await reader?.read())?.value);
    leaving.abort();
    expect(text).toMatch(/^data: high\n\ndata: low\n\ndata: high/);
    const call = await until(async () => {
      const { calls } = await upsetter.client.listCalls({ service: 'forms', limit: 1 });
      return calls[0]?.state === 'broken' ? upsetter.client.readCall(calls[0].id) : undefined;
    });
    expect(JSON.stringify(call)).toContain('data: high');
  });

  test('and Try shows what came in a while', async () => {
    const tried = await upsetter.client.tryCall('forms', {
      method: 'GET',
      path: '/tides',
      headers: {},
      body: null,
      lane: 'main',
    });
    expect(tried.body).toMatch(/^data: high\n\ndata: low/);
  });
});

describe('an answer may be the upstream’s', () => {
  test('with changes to the call and to what comes back', async () => {
    const response = await get('/berths/N7', { authorization: 'Bearer x', 'x-key': 'mine', 'x-other': 'o' });
    expect([response.status, response.headers.get('x-from')]).toEqual([203, 'mock']);
    expect(await response.json()).toEqual({ real: '/real/N7?deep=1' });
    const { url, headers } = heard.at(-1) ?? { url: '', headers: {} as IncomingHttpHeaders };
    expect([url, headers['x-key'], headers['x-other'], headers['authorization']]).toEqual([
      '/real/N7?deep=1',
      'k-N7',
      'o',
      undefined,
    ]);
    const { calls } = await upsetter.client.listCalls({ service: 'forms', limit: 1 });
    expect(calls[0]).toMatchObject({ answeredBy: 'upstream', case: 'changed', status: 203, stray: false });
  });

  test('or as it is', async () => {
    const response = await get('/berths/S1?x=1');
    expect([response.status, response.headers.get('x-from')]).toEqual([200, 'real']);
    expect(heard.at(-1)?.url).toBe('/berths/S1?x=1');
  });

  test.each([
    ['relay: true', '', /`relay` needs an `upstream`/],
    ['relay: true', 'upstream: http://192.0.2.1', /192\.0\.2\.1/],
    ['events: { last: again, list: [{ data: x }] }', '', /need a `gap`/],
    ['events: []', '', /needs an event/],
    ['as: { json: {} }', '', /a media type such as/],
    ['json: 1, html: x', '', /one body, here are json and html/],
    ['file: ./gone.png', '', /no file .\/gone.png beside/],
    ['file: chart.png', '', /`file` names a file beside/],
    ['serve: [gzip], relay: true', 'upstream: http://127.0.0.1:1', /a body that is known as a whole/],
    ['cookies: { "a b": x }', '', /not a name that a cookie can have/],
    ['cookies: { a: { value: x, sameSite: some } }', '', /`sameSite` is strict, lax or none/],
    ['relay: { pathh: /x }', 'upstream: http://127.0.0.1:1', /did you mean `path`/],
  ])('mistakes are told: %s %s', async (answer, more, message) => {
    const text = fileOf('bad', `a: { on: GET /a, cases: [{ case: a, answer: { ${answer} } }] }`, more);
    const told = await upsetter.client.saveService('bad', text).then(
      () => 'saved',
      (error: Error & { problem?: unknown }) => `${error.message} ${JSON.stringify(error.problem ?? {})}`,
    );
    expect(told).toMatch(message);
  });
});
