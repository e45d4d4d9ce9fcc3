import { createHash, randomBytes } from 'node:crypto';
import { type IncomingMessage, request as sendRequest } from 'node:http';
import { connect } from 'node:net';
import { gzipSync } from 'node:zlib';
import type { Exchange } from '@upsetter/core';
import { createUpstream, type MockListener, openRelay, toExchange } from '@upsetter/engine';
import { afterEach, describe, expect, test } from 'vitest';
import { readAll, startRawService, startRealService } from '../support/real-service.js';
import { until } from '../support/upsetter.js';

interface TestRelay {
  readonly relay: MockListener;
  readonly heard: Exchange[];
}

const closing: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close();
});

async function relayTo(
  url: string,
  options: { rewrites?: boolean; timeoutMs?: number; kept?: number } = {},
): Promise<TestRelay> {
  const heard: Exchange[] = [];
  let order = 0;
  const relay = await openRelay('127.0.0.1', 0, {
    upstream: createUpstream({ url, authority: null, timeoutMs: options.timeoutMs ?? 10_000 }),
    keptBodyBytes: options.kept ?? 100_000,
    rewrites: options.rewrites === true,
    nextOrder: () => order++,
    onHeard: (call) => heard.push(toExchange(call)),
  });
  closing.push(() => relay.stop(100));
  return { relay, heard };
}

async function realService(...args: Parameters<typeof startRealService>): Promise<string> {
  const service = await startRealService(...args);
  closing.push(service.stop);
  return service.url;
}

const lastHeard = ({ heard }: TestRelay): Promise<Exchange> => until(async () => heard.at(-1));

describe('what passes a relay', () => {
  test('is unchanged on both sides: method, path, query, headers, body, status', async () => {
    const url = await realService(async (incoming, outgoing) => {
      const body = await readAll(incoming);
      outgoing.writeHead(207, 'Somewhat', { 'x-told': 'one', 'X-Case': 'Kept', 'content-type': 'application/json' });
      outgoing.end(
        JSON.stringify({
          method: incoming.method,
          url: incoming.url,
          sent: String(body),
          mark: incoming.headers['x-mark'],
        }),
      );
    });
    const own = await relayTo(url);
    const answer = await fetch(`${own.relay.address}/berths/N%2F7?day=2026-03-02&day=x%20y`, {
      method: 'PATCH',
      headers: { 'x-mark': 'm1', 'content-type': 'text/plain' },
      body: 'depth 8.5',
    });
    expect([answer.status, answer.statusText, answer.headers.get('x-told')]).toEqual([207, 'Somewhat', 'one']);
    expect(await answer.json()).toEqual({
      method: 'PATCH',
      url: '/berths/N%2F7?day=2026-03-02&day=x%20y',
      sent: 'depth 8.5',
      mark: 'm1',
    });
    const heard = await lastHeard(own);
    expect(heard).toMatchObject({
      method: 'PATCH',
      origin: url,
      path: '/berths/N%2F7',
      requestBody: 'depth 8.5',
      status: 207,
      trouble: null,
    });
    expect(heard.query).toEqual([
      ['day', '2026-03-02'],
      ['day', 'x y'],
    ]);
    expect(heard.responseHeaders).toContain('X-Case');
    expect(heard.firstByteMs).toBeGreaterThan(0);
    expect(heard.tookMs).toBeGreaterThanOrEqual(heard.firstByteMs);
  });

  test('is passed on packed, and heard unpacked', async () => {
    const packed = gzipSync('{"quay":"North"}');
    const url = await realService((_incoming, outgoing) => {
      outgoing.writeHead(200, { 'content-type': 'application/json', 'content-encoding': 'gzip' });
      outgoing.end(packed);
    });
    const own = await relayTo(url);
    const bytes = await new Promise<Buffer>((resolve, reject) => {
      sendRequest(own.relay.address, (answer) => void readAll(answer).then(resolve, reject)).end();
    });
    expect(bytes).toEqual(packed);
    expect((await lastHeard(own)).body).toEqual({ kind: 'text', content: '{"quay":"North"}' });
  });

  test('comes piece by piece: an event stream is seen while it goes on', async () => {
    const events: { write: (text: string) => void; end: () => void }[] = [];
    const url = await realService((_incoming, outgoing) => {
      outgoing.writeHead(200, { 'content-type': 'text/event-stream' });
      outgoing.flushHeaders();
      events.push({ write: (text) => outgoing.write(text), end: () => outgoing.end() });
    });
    const own = await relayTo(url);
    const answer = await fetch(own.relay.address);
    const reader = (answer.body as ReadableStream<Uint8Array>).getReader();
    events[0]?.write('data: tide\n\n');
    expect(new TextDecoder().decode((await reader.read()).value)).toBe('data: tide\n\n');
    expect(own.heard).toEqual([]);
    events[0]?.write('data: ebb\n\n');
    expect(new TextDecoder().decode((await reader.read()).value)).toBe('data: ebb\n\n');
    events[0]?.end();
    expect((await reader.read()).done).toBe(true);
    expect((await lastHeard(own)).body?.content).toBe('data: tide\n\ndata: ebb\n\n');
  });

  test('may be long: the digests agree, and what is kept stays small', async () => {
    const piece = randomBytes(1 << 20);
    const pieces = 64;
    const url = await realService((incoming, outgoing) => {
      const digest = createHash('sha256');
      incoming.on('data', (chunk: Buffer) => digest.update(chunk));
      incoming.on('end', () => {
        outgoing.setHeader('x-digest', digest.digest('hex'));
        let left = pieces;
        const write = (): void => {
          while (left-- > 0) if (!outgoing.write(piece)) return void outgoing.once('drain', write);
          outgoing.end();
        };
        write();
      });
    });
    const own = await relayTo(url, { kept: 1000 });
    const wanted = createHash('sha256');
    for (let i = 0; i < pieces; i++) wanted.update(piece);
    const expected = wanted.digest('hex');
    const answer = await new Promise<IncomingMessage>((resolve) => {
      const request = sendRequest(own.relay.address, { method: 'PUT' }, resolve);
      let left = pieces;
      const write = (): void => {
        while (left-- > 0) if (!request.write(piece)) return void request.once('drain', write);
        request.end();
      };
      write();
    });
    const got = createHash('sha256');
    for await (const chunk of answer) got.update(chunk as Buffer);
    expect([answer.headers['x-digest'], got.digest('hex')]).toEqual([expected, expected]);
    const heard = await lastHeard(own);
    expect([heard.body, heard.requestBody]).toEqual([null, null]);
    expect(heard.trouble).toMatch(/too large to keep.*too large to keep/);
  });

  test('keeps the order in which calls began', async () => {
    const waiting: (() => void)[] = [];
    const url = await realService((incoming, outgoing) => {
      if (incoming.url === '/slow') waiting.push(() => outgoing.end('slow'));
      else outgoing.end('quick');
    });
    const own = await relayTo(url);
    const slow = fetch(`${own.relay.address}/slow`);
    await until(async () => waiting.length > 0);
    await (await fetch(`${own.relay.address}/quick`)).text();
    waiting[0]?.();
    await (await slow).text();
    await until(async () => own.heard.length === 2);
    expect(own.heard.map(({ index, path }) => `${index} ${path}`).sort()).toEqual(['0 /slow', '1 /quick']);
  });

  test('may switch protocols: bytes flow both ways', async () => {
    const raw = await startRawService((socket) => {
      socket.once('data', () => {
        socket.write('HTTP/1.1 101 Switching Protocols\r\nupgrade: echo\r\nconnection: upgrade\r\n\r\n');
        socket.on('data', (chunk) => socket.write(`echo ${chunk}`));
      });
    });
    closing.push(raw.stop);
    const own = await relayTo(raw.url);
    const socket = connect(own.relay.port, '127.0.0.1');
    closing.push(() => socket.destroy());
    let text = '';
    socket.on('data', (chunk) => {
      text += String(chunk);
    });
    socket.write('GET /gauge HTTP/1.1\r\nhost: x\r\nupgrade: echo\r\nconnection: upgrade\r\n\r\n');
    await until(async () => text.includes('101 Switching Protocols'));
    socket.write('tide');
    await until(async () => text.endsWith('echo tide'));
    expect(await lastHeard(own)).toMatchObject({ status: 101, path: '/gauge' });
  });

  test('leads back to the relay on request: redirects, links and cookies', async () => {
    const url = await realService((_incoming, outgoing) => {
      const own = `http://127.0.0.1:${(outgoing.socket?.localPort ?? 0).toString()}`;
      outgoing.writeHead(302, {
        location: `${own}/berths/N7`,
        'set-cookie': 'gauge=7; Domain=127.0.0.1; Secure; Path=/',
        'content-type': 'application/json',
      });
      outgoing.end(JSON.stringify({ next: `${own}/berths?page=2` }));
    });
    const own = await relayTo(url, { rewrites: true });
    const answer = await fetch(own.relay.address, { redirect: 'manual' });
    expect(answer.headers.get('location')).toBe(`${own.relay.address}/berths/N7`);
    expect(answer.headers.get('set-cookie')).toBe('gauge=7; Path=/');
    expect(await answer.json()).toEqual({ next: `${own.relay.address}/berths?page=2` });
    expect((await lastHeard(own)).body?.content).toContain(`${url}/berths?page=2`);
  });
});

describe('an upstream that fails', () => {
  test('and cannot be reached is a 502, and the take says so', async () => {
    const { url, stop } = await startRawService(() => {});
    stop();
    const own = await relayTo(url);
    const answer = await fetch(own.relay.address);
    expect([answer.status, answer.headers.get('content-type')]).toEqual([502, 'application/problem+json']);
    expect(await answer.json()).toMatchObject({ code: 'upstream-unreachable' });
    expect(await lastHeard(own)).toMatchObject({
      status: 0,
      trouble: expect.stringMatching(/^the upstream cannot be reached/),
    });
  });

  test('and stays silent is a 504', async () => {
    const raw = await startRawService(() => {});
    closing.push(raw.stop);
    const own = await relayTo(raw.url, { timeoutMs: 50 });
    const answer = await fetch(own.relay.address);
    expect([answer.status, await answer.json()]).toMatchObject([504, { code: 'upstream-silent' }]);
    expect((await lastHeard(own)).trouble).toBe('the upstream did not answer within 0.05 s');
  });

  test.each([
    ['closes without an answer', '', 502],
    ['cuts its body off', 'HTTP/1.1 200 OK\r\ncontent-length: 100\r\n\r\nonly this', 200],
    ['cuts a chunked body off', 'HTTP/1.1 200 OK\r\ntransfer-encoding: chunked\r\n\r\n5\r\nonly \r\n', 200],
  ])('and %s gives its caller the same', async (_what, bytes, status) => {
    const raw = await startRawService((socket) => {
      socket.once('data', () => socket.end(bytes));
    });
    closing.push(raw.stop);
    const own = await relayTo(raw.url);
    const answer = await fetch(own.relay.address);
    expect(answer.status).toBe(status);
    if (status === 200) await expect(answer.text()).rejects.toThrow('terminated');
    expect((await lastHeard(own)).trouble).toMatch(
      status === 200 ? /^the upstream cut its answer off/ : /cannot be reached/,
    );
  });

  test('is let go when the caller leaves', async () => {
    let isGone = false;
    const url = await realService((incoming, outgoing) => {
      outgoing.write('first');
      incoming.on('close', () => {
        isGone = true;
      });
    });
    const own = await relayTo(url);
    const leaving = new AbortController();
    const answer = await fetch(own.relay.address, { signal: leaving.signal });
    expect(answer.status).toBe(200);
    leaving.abort();
    await until(async () => isGone);
    expect((await lastHeard(own)).trouble).toBe('the caller left before the answer was whole');
  });
});
