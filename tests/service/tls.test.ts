import { mkdtemp, rm } from 'node:fs/promises';
import { request as askHttp } from 'node:http';
import { type ClientHttp2Session, connect as connectHttp2 } from 'node:http2';
import { request as askHttps } from 'node:https';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { connect as connectTls } from 'node:tls';
import { makeAuthority, makeClientLeaf, makeLeaf } from '@upsetter/engine';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';

let upsetter: TestUpsetter;
let homeDir: string;
let trusted: string;

beforeAll(async () => {
  homeDir = await mkdtemp(join(tmpdir(), 'upsetter-home-'));
  upsetter = await startTestUpsetter({ homeDir });
  trusted = (await upsetter.client.readAuthority()).certificate;
});
afterAll(async () => {
  await upsetter.stop();
  await rm(homeDir, { recursive: true });
});

const ECHO = `
  echo:
    on: "* /echo"
    cases:
      - case: told
        when: { client certificate: { present: true } }
        answer: { json: { name: "\${call.client.certificate}" } }
      - case: echoed
        answer:
          cookies: { a: "1", b: "2" }
          json: { sent: "\${call.text}", origin: "\${call.origin}", host: "\${call.headers.host}", q: "\${call.query.q}" }
  guarded:
    on: GET /guarded
    cases: [{ case: in, answer: { text: in } }]
`;

/** Saves a service that listens so; its port. */
async function serve(name: string, listen: string, more = ''): Promise<number> {
  const text = `upsetter: 1\nservice: ${name}\nlisten: ${listen}\n${more}operations:${ECHO}`;
  const { address } = await upsetter.client.saveService(name, text, { files });
  return Number(new URL(address ?? '').port);
}
/** Where and why a file is refused. */
const refusedAt = (path: string, line: number, column: number, message: string) => ({
  problem: {
    code: 'file-refused',
    problems: [{ path, line, column, message: expect.stringContaining(message) as unknown }],
  },
});
let files: Record<string, { kind: 'text'; content: string }> = {};

interface Told {
  readonly status: number;
  readonly version: string;
  readonly body: string;
  readonly cookies: readonly string[];
}

interface Caller {
  readonly host?: string;
  readonly body?: string;
  readonly path?: string;
  readonly cert?: string;
  readonly key?: string;
  readonly ca?: string;
}

/** One call over TLS by HTTP/1.1. */
function ask(
  port: number,
  { host = '127.0.0.1', body, path = '/echo?q=1', ca = trusted, ...own }: Caller = {},
): Promise<Told> {
  return new Promise((resolve, reject) => {
    const servername = host === '127.0.0.1' ? '' : host;
    const options = { host: '127.0.0.1', port, path, servername, ca, agent: false, headers: { host }, ...own };
    const outgoing = askHttps({ ...options, method: body === undefined ? 'GET' : 'POST' }, (incoming) => {
      const chunks: Buffer[] = [];
      incoming.on('data', (chunk: Buffer) => chunks.push(chunk));
      incoming.on('end', () =>
        resolve({
          status: incoming.statusCode ?? 0,
          version: incoming.httpVersion,
          body: Buffer.concat(chunks).toString(),
          cookies: incoming.headers['set-cookie'] ?? [],
        }),
      );
    });
    outgoing.on('error', reject);
    outgoing.end(body);
  });
}

/** One call by HTTP/2; the session stays open. */
function stream(session: ClientHttp2Session, path: string, body?: string): Promise<Told> {
  return new Promise((resolve, reject) => {
    const outgoing = session.request({ ':path': path, ':method': body === undefined ? 'GET' : 'POST' });
    let head: Record<string, unknown> = {};
    const chunks: Buffer[] = [];
    outgoing.on('response', (headers) => {
      head = headers;
    });
    outgoing.on('data', (chunk: Buffer) => chunks.push(chunk));
    outgoing.on('end', () =>
      resolve({
        status: Number(head[':status']),
        version: '2',
        body: Buffer.concat(chunks).toString(),
        cookies: (head['set-cookie'] as string[] | undefined) ?? [],
      }),
    );
    outgoing.on('error', reject);
    outgoing.end(body);
  });
}

/** The session of one test, closed at its end. */
async function withSession<T>(
  address: string,
  options: object,
  work: (session: ClientHttp2Session) => Promise<T>,
): Promise<T> {
  const session = connectHttp2(address, options);
  try {
    return await work(session);
  } finally {
    session.close();
  }
}

describe('a mock over TLS', () => {
  test('has a certificate for any name that callers know it by', async () => {
    const port = await serve('auto', '{ tls: auto }');
    for (const host of ['127.0.0.1', 'localhost', 'harbour.example'])
      expect(await ask(port, { host, body: 'hi' })).toMatchObject({
        status: 200,
        version: '1.1',
        body: expect.stringContaining('"sent":"hi"'),
      });
    expect(JSON.parse((await ask(port, { host: 'harbour.example' })).body)).toMatchObject({
      origin: 'https://harbour.example',
    });
    await expect(ask(port, { ca: '' })).rejects.toThrow(/certificate/);
  });

  test('answers in Try, and tells its address as https', async () => {
    await serve('tried', '{ tls: auto }');
    expect(
      await upsetter.client.tryCall('tried', { method: 'GET', path: '/echo', headers: {}, body: null, lane: 'main' }),
    ).toMatchObject({ status: 200 });
    expect((await upsetter.client.readService('tried')).address).toMatch(/^https:/);
  });

  test('shows the certificate of its file, and refuses one that has another key', async () => {
    const authority = await makeAuthority('Harbour test authority', Date.now());
    const leaf = await makeLeaf(authority, 'localhost', Date.now());
    const other = await makeLeaf(authority, 'localhost', Date.now());
    files = {
      './own.pem': { kind: 'text', content: leaf.certificatePem },
      './own.key': { kind: 'text', content: leaf.keyPem },
      './other.key': { kind: 'text', content: other.keyPem },
      './no.pem': { kind: 'text', content: '-----BEGIN CERTIFICATE-----\nAAAA\n-----END CERTIFICATE-----\n' },
    };
    const port = await serve('own', '{ tls: { certificate: ./own.pem, key: ./own.key } }');
    expect(await ask(port, { ca: authority.certificatePem })).toMatchObject({ status: 200 });
    await expect(ask(port)).rejects.toThrow();
    await expect(serve('own', '{ tls: { certificate: ./own.pem, key: ./other.key } }')).rejects.toMatchObject(
      refusedAt('listen.tls.key', 3, 47, 'it is not the key of the certificate'),
    );
    await expect(serve('own', '{ tls: { certificate: ./no.pem, key: ./own.key } }')).rejects.toMatchObject(
      refusedAt('listen.tls.certificate', 3, 31, 'a certificate in PEM is expected'),
    );
    expect(await ask(port, { ca: authority.certificatePem })).toMatchObject({ status: 200 });
  });

  test('is at the same port when it begins and ceases to speak TLS', async () => {
    const port = await serve('changing', '{ port: 0 }');
    expect((await fetch(`http://127.0.0.1:${port}/echo`)).status).toBe(200);
    expect(await serve('changing', '{ port: 0, tls: auto }')).toBe(port);
    expect(await ask(port)).toMatchObject({ status: 200 });
    expect(await serve('changing', '{ port: 0 }')).toBe(port);
    expect((await fetch(`http://127.0.0.1:${port}/echo`)).status).toBe(200);
  });
});

describe('client certificates', () => {
  const GUARD = 'access: { certificate: { is: petrel } }\n';

  test("of Upsetter's own authority are seen by conditions, and let in by access", async () => {
    const port = await serve('gate', '{ tls: { clients: {} } }');
    const { certificate: cert, key } = await upsetter.client.issueClientCertificate('petrel');
    expect(await ask(port, { cert, key })).toMatchObject({ body: '{"name":"petrel"}' });
    expect((await ask(port)).body).toContain('"sent"');
    await serve('gate', '{ tls: { clients: {} } }', GUARD);
    expect(await ask(port, { cert, key })).toMatchObject({ status: 200 });
    expect(await ask(port)).toMatchObject({
      status: 401,
      body: expect.stringContaining('there is no client certificate'),
    });
    const sula = await upsetter.client.issueClientCertificate('sula');
    expect(await ask(port, { cert: sula.certificate, key: sula.key })).toMatchObject({
      status: 403,
      body: expect.stringContaining('the client certificate is of sula, who may not'),
    });
  });

  test('of an authority that the mock does not know are none', async () => {
    const authority = await makeAuthority('Another authority', Date.now());
    const { certificatePem: cert, keyPem: key } = await makeClientLeaf(authority, 'petrel', Date.now());
    const port = await serve('known', '{ tls: { clients: {} } }', GUARD);
    expect(await ask(port, { cert, key })).toMatchObject({ status: 401 });
    files = { './clients.pem': { kind: 'text', content: authority.certificatePem } };
    await serve('known', '{ tls: { clients: { authority: ./clients.pem } } }', GUARD);
    expect(await ask(port, { cert, key })).toMatchObject({ status: 200 });
  });

  test('may be required: who has none gets no answer', async () => {
    const port = await serve('required', '{ tls: { clients: { required: true } } }');
    await expect(ask(port)).rejects.toThrow();
    const { certificate: cert, key } = await upsetter.client.issueClientCertificate('petrel');
    expect(await ask(port, { cert, key })).toMatchObject({ status: 200 });
  });

  test('are shown by Try: of the name that is given, or of its own where one is required', async () => {
    const ECHOED = { method: 'GET', path: '/echo' };
    const nameIn = ({ body }: { body: string }) => (JSON.parse(body) as { name?: string }).name;
    await serve('tried', '{ tls: { clients: {} } }');
    expect(nameIn(await upsetter.client.tryCall('tried', ECHOED))).toBeUndefined();
    expect(nameIn(await upsetter.client.tryCall('tried', { ...ECHOED, certificate: 'Anna Grey' }))).toBe('Anna Grey');
    await serve('tried', '{ tls: { clients: { required: true } } }');
    expect(nameIn(await upsetter.client.tryCall('tried', ECHOED))).toBe('upsetter try');
    await serve(
      'tried',
      `{ tls: { clients: { required: true, authority: ${JSON.stringify((await makeAuthority('Another', Date.now())).certificatePem)} } } }`,
    );
    await expect(upsetter.client.tryCall('tried', ECHOED)).rejects.toThrow('trusts the authority in its file');
    await serve('tried', '{ tls: auto }');
    await expect(upsetter.client.tryCall('tried', { ...ECHOED, certificate: 'Anna Grey' })).rejects.toThrow(
      'tried does not ask callers for a certificate',
    );
  });
});

describe('a connection on which TLS cannot be opened is told with its reason', () => {
  const refusedBy = (name: string, count: number) =>
    until(async () => {
      const { refusedConnections } = await upsetter.client.readService(name);
      return refusedConnections.reduce((sum, { times }) => sum + times, 0) >= count && refusedConnections;
    });

  test('HTTP in clear, a certificate that the caller does not trust, none where one is required', async () => {
    const port = await serve('doors', '{ tls: { clients: { required: true } } }');
    await expect(fetch(`http://127.0.0.1:${port}/echo`)).rejects.toThrow();
    await expect(fetch(`https://127.0.0.1:${port}/echo`)).rejects.toThrow();
    await expect(ask(port)).rejects.toThrow();
    await expect(ask(port)).rejects.toThrow();
    const refused = await refusedBy('doors', 4);
    expect(refused.map(({ reason, times }) => [reason.slice(0, 43), times])).toEqual([
      ['the caller showed no certificate, and this ', 2],
      ['the caller left before TLS was open; often ', 1],
      ['the caller spoke HTTP in clear: the address', 1],
    ]);
    expect(refused[0]?.from).toBe('127.0.0.1');
  });

  test('a certificate that somebody else signed', async () => {
    const authority = await makeAuthority('Another authority', Date.now());
    const { certificatePem: cert, keyPem: key } = await makeClientLeaf(authority, 'petrel', Date.now());
    const port = await serve('foreign', '{ tls: { clients: { required: true } } }');
    await expect(ask(port, { cert, key })).rejects.toThrow();
    expect((await refusedBy('foreign', 1))[0]?.reason).toContain('is not signed by an authority that');
  });
});

describe('a mock that speaks HTTP/2', () => {
  test('over TLS answers in either version, as the caller asks for', async () => {
    const port = await serve('both', '{ tls: auto, http2: true }');
    expect(await ask(port)).toMatchObject({ status: 200, version: '1.1' });
    await withSession(`https://127.0.0.1:${port}`, { ca: trusted }, async (session) => {
      expect(await stream(session, '/echo?q=2', 'ahoy')).toEqual({
        status: 200,
        version: '2',
        body: JSON.stringify({ sent: 'ahoy', origin: `https://127.0.0.1:${port}`, host: `127.0.0.1:${port}`, q: '2' }),
        cookies: ['a=1', 'b=2'],
      });
      const answers = await Promise.all(Array.from({ length: 50 }, (_, i) => stream(session, `/echo?q=${i}`)));
      expect(answers.map(({ body }) => JSON.parse(body).q)).toEqual(answers.map((_, i) => String(i)));
      expect(await stream(session, '/nowhere')).toMatchObject({ status: 404 });
    });
  });

  test('without TLS is found out by how the caller begins', async () => {
    const port = await serve('clear', '{ http2: true }');
    expect((await fetch(`http://127.0.0.1:${port}/echo`)).status).toBe(200);
    await withSession(`http://127.0.0.1:${port}`, {}, async (session) => {
      expect(await stream(session, '/echo', 'ahoy')).toMatchObject({
        status: 200,
        body: expect.stringContaining('ahoy'),
      });
    });
  });

  test('outlives callers that break the rules, or leave', async () => {
    const port = await serve('rough', '{ tls: auto, http2: true }');
    await new Promise<void>((resolve) => {
      const socket = connectTls({ port, host: '127.0.0.1', ca: trusted, ALPNProtocols: ['h2'] }, () => {
        socket.write('PRI * HTTP/2.0\r\n\r\nSM\r\n\r\nthis is no frame at all');
      });
      socket.on('error', () => {});
      socket.on('close', () => resolve());
      socket.resume();
    });
    await new Promise<void>((resolve) => {
      // No TLS at all.
      const outgoing = askHttp({ port, host: '127.0.0.1', agent: false });
      outgoing.on('error', () => resolve());
      outgoing.end();
    });
    expect(await ask(port)).toMatchObject({ status: 200 });
  });

  test('stops while a session is open', async () => {
    const port = await serve('stopping', '{ tls: auto, http2: true }');
    const session = connectHttp2(`https://127.0.0.1:${port}`, { ca: trusted });
    session.on('error', () => {});
    expect(await stream(session, '/echo')).toMatchObject({ status: 200 });
    const closed = new Promise<void>((resolve) => session.on('close', () => resolve()));
    await upsetter.client.removeService('stopping');
    await closed;
  });
});
