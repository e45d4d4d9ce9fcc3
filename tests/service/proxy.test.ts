import { X509Certificate } from 'node:crypto';
import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises';
import type { RequestListener } from 'node:http';
import type { Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TakeStart, TakeSummary } from '@upsetter/core/wire';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { askPlain, askSecurely, connectThrough, openTls } from '../support/proxied-call.js';
import { readAll, startRawService, startRealService } from '../support/real-service.js';
import { startTrustedService, type TrustedService } from '../support/trusted-service.js';
import { startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';

let upsetter: TestUpsetter;
let homeDir: string;
let trusted: string;
let secure: TrustedService;
let plain: Awaited<ReturnType<typeof startRealService>>;
const closing: (() => unknown)[] = [];
let takes = 0;

const echo: RequestListener = async (incoming, outgoing) => {
  const sent = String(await readAll(incoming));
  outgoing.setHeader('content-type', 'application/json');
  outgoing.end(JSON.stringify({ method: incoming.method, url: incoming.url, host: incoming.headers.host, sent }));
};

beforeAll(async () => {
  homeDir = await mkdtemp(join(tmpdir(), 'upsetter-home-'));
  upsetter = await startTestUpsetter({ homeDir });
  secure = await startTrustedService(echo);
  plain = await startRealService(echo);
  trusted = (await upsetter.client.readAuthority()).certificate;
});
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close();
});
afterAll(async () => {
  await upsetter.stop();
  await secure.stop();
  await plain.stop();
  await rm(homeDir, { recursive: true });
});

interface TestProxy {
  readonly name: string;
  readonly address: string;
  readonly stop: () => Promise<TakeSummary>;
}

async function openProxy(hosts: string[] = [], more: Partial<TakeStart> = {}): Promise<TestProxy> {
  takes += 1;
  const name = `proxied-${takes}`;
  const authority = secure.authority.certificatePem;
  const take = await upsetter.client.startTake({ name, proxy: { hosts }, authority, ...more });
  return { name, address: take.address ?? '', stop: () => upsetter.client.stopTake(name) };
}

const heardBy = async ({ name }: TestProxy) => (await upsetter.client.listExchanges(name, -1, 100)).exchanges;

describe('what is heard through a proxy', () => {
  test('is a plain call by its absolute address, with its method, path, query and body as they were', async () => {
    const proxy = await openProxy();
    const answer = await askPlain(proxy.address, `${plain.url}/berths/N%2F7?day=x%20y`, 'PUT', 'depth 8.5');
    expect(JSON.parse(answer.text)).toEqual({
      method: 'PUT',
      url: '/berths/N%2F7?day=x%20y',
      host: new URL(plain.url).host,
      sent: 'depth 8.5',
    });
    const [exchange] = await heardBy(proxy);
    expect(exchange).toMatchObject({ method: 'PUT', origin: plain.url, url: '/berths/N%2F7?day=x+y', status: 200 });
  });

  test('is a plain call through CONNECT', async () => {
    const proxy = await openProxy();
    const socket = (await connectThrough(proxy.address, new URL(plain.url).host)) as Socket;
    socket.write(`GET /lamps/3 HTTP/1.1\r\nhost: ${new URL(plain.url).host}\r\nconnection: close\r\n\r\n`);
    expect(String(await readAll(socket as never))).toContain('"url":"/lamps/3"');
    expect(await heardBy(proxy)).toMatchObject([{ origin: plain.url, url: '/lamps/3' }]);
  });

  test('is an https call of an application that trusts the authority', async () => {
    const proxy = await openProxy();
    const answer = await askSecurely(proxy.address, `${secure.url}/tides?port=skerry`, trusted);
    expect(answer).toMatchObject({ status: 200, text: expect.stringContaining('/tides?port=skerry') });
    expect(await heardBy(proxy)).toMatchObject([{ origin: secure.url, url: '/tides?port=skerry', status: 200 }]);
    expect((await proxy.stop()).hosts).toMatchObject([{ host: new URL(secure.url).host, heard: 1, refused: 0 }]);
  });

  test('goes on when one connection carries several calls', async () => {
    const proxy = await openProxy();
    const socket = await openTls(proxy.address, secure.url, trusted);
    const { host } = new URL(secure.url);
    socket.write(
      `GET /one HTTP/1.1\r\nhost: ${host}\r\n\r\nGET /two HTTP/1.1\r\nhost: ${host}\r\nconnection: close\r\n\r\n`,
    );
    const text = String(await readAll(socket as never));
    expect(text.indexOf('"/one"')).toBeGreaterThan(0);
    expect(text.indexOf('"/two"')).toBeGreaterThan(text.indexOf('"/one"'));
    expect((await heardBy(proxy)).map(({ url }) => url)).toEqual(['/one', '/two']);
  });

  test('drafts a service from the origin that was chosen', async () => {
    const proxy = await openProxy();
    await askPlain(proxy.address, `${plain.url}/lamps/1`);
    await askSecurely(proxy.address, `${secure.url}/tides`, trusted);
    await askSecurely(proxy.address, `${secure.url}/tides`, trusted);
    const draft = await upsetter.client.draftTake(proxy.name, { service: 'tides', origin: secure.url });
    expect(draft).toMatchObject({ operations: 1, fidelity: { exchanges: 2, asHeard: 2 } });
  });
});

describe('what is not chosen', () => {
  test('is tunnelled untouched: the caller meets the real certificate, and nothing is heard', async () => {
    const proxy = await openProxy(['*.harbour.test']);
    const socket = await openTls(proxy.address, secure.url, secure.authority.certificatePem);
    expect(socket.getPeerX509Certificate()?.issuer).toBe('CN=Harbour authority');
    socket.destroy();
    await askPlain(proxy.address, `${plain.url}/lamps/1`);
    expect(await heardBy(proxy)).toEqual([]);
    expect((await proxy.stop()).hosts).toMatchObject([
      { host: new URL(secure.url).host, heard: 0, untouched: 1 },
      { host: new URL(plain.url).host, heard: 0, untouched: 1 },
    ]);
  });

  test('is told by host, by host and port, and without regard to case', async () => {
    const proxy = await openProxy(['LOCAL*', `127.0.0.1:${new URL(plain.url).port}`]);
    await askSecurely(proxy.address, `${secure.url}/by-host`, trusted);
    await askPlain(proxy.address, `${plain.url}/by-port`);
    expect((await heardBy(proxy)).map(({ url }) => url)).toEqual(['/by-host', '/by-port']);
  });

  test('passes when it is neither TLS nor HTTP, even from a host that is heard', async () => {
    const raw = await startRawService((socket) => socket.on('data', (data) => socket.write(`heard ${data}`)));
    closing.push(raw.stop);
    const proxy = await openProxy();
    const socket = (await connectThrough(proxy.address, new URL(raw.url).host)) as Socket;
    socket.write('\u0001light on');
    const [data] = await new Promise<Buffer[]>((resolve) => socket.once('data', (chunk: Buffer) => resolve([chunk])));
    expect(String(data)).toBe('heard \u0001light on');
    socket.destroy();
  });
});

describe('what goes wrong at a proxy', () => {
  test('an application that does not trust the authority is named in the take, with what to do', async () => {
    const proxy = await openProxy();
    await expect(openTls(proxy.address, secure.url, secure.authority.certificatePem)).rejects.toThrow();
    const host = await until(async () => {
      const [found] = (await upsetter.client.readTake(proxy.name)).hosts;
      return found !== undefined && found.refused > 0 && found;
    });
    expect(host.trouble).toContain('authority export');
    expect(await heardBy(proxy)).toEqual([]);
  });

  test('a host that cannot be reached is a 502, heard or not', async () => {
    const gone = await startRealService(echo);
    await gone.stop();
    const all = await openProxy();
    expect((await askPlain(all.address, `${gone.url}/x`)).status).toBe(502);
    const some = await openProxy(['*.harbour.test']);
    expect(await connectThrough(some.address, new URL(gone.url).host)).toMatchObject({ status: 502 });
    expect((await some.stop()).hosts).toMatchObject([{ refused: 1, trouble: expect.stringContaining('ECONNREFUSED') }]);
  });

  test('the certificate of a real service that is not trusted is a 502 that says so', async () => {
    const proxy = await openProxy([], { authority: null });
    const answer = await askSecurely(proxy.address, `${secure.url}/tides`, trusted);
    expect(answer.status).toBe(502);
    expect(JSON.parse(answer.text)).toMatchObject({ detail: expect.stringContaining('--authority FILE') });
  });

  test('called as a service, or asked to call itself, it says what it is', async () => {
    const { address } = await openProxy();
    expect(await (await fetch(address)).json()).toMatchObject({
      status: 400,
      detail: expect.stringContaining(address),
    });
    expect((await askPlain(address, `${address}/x`)).status).toBe(508);
    expect(await connectThrough(address, new URL(address).host)).toMatchObject({ status: 508 });
    expect(await connectThrough(address, 'no-port')).toMatchObject({ status: 400 });
  });

  test('stopping the take ends tunnels and kept connections', async () => {
    const proxy = await openProxy([new URL(secure.url).host]);
    const kept = await openTls(proxy.address, secure.url, trusted);
    const tunnelled = (await connectThrough(proxy.address, new URL(plain.url).host)) as Socket;
    const ended = Promise.all(
      [kept, tunnelled].map((socket) => new Promise((resolve) => socket.once('close', resolve))),
    );
    for (const socket of [kept, tunnelled]) socket.on('error', () => {}).resume();
    await proxy.stop();
    await ended;
  });

  test('a start that names both a service and a proxy, or neither, is refused', async () => {
    const both = { name: 'both', from: plain.url, proxy: { hosts: [] } };
    await expect(upsetter.client.startTake(both)).rejects.toThrow(/name one of them/);
    await expect(upsetter.client.startTake({ name: 'neither' })).rejects.toThrow(/name one of them/);
    const rewriting = { name: 'rewriting', proxy: { hosts: [] }, rewrites: true };
    await expect(upsetter.client.startTake(rewriting)).rejects.toThrow(/belongs to `from`/);
  });
});

test('a relay to an https service with an authority of its own hears it', async () => {
  const take = { name: 'secure-relay', from: secure.url };
  const distrusting = await upsetter.client.startTake(take);
  expect((await fetch(`${distrusting.address}/tides`)).status).toBe(502);
  await upsetter.client.removeTake(take.name);
  const trusting = await upsetter.client.startTake({ ...take, authority: secure.authority.certificatePem });
  expect(await (await fetch(`${trusting.address}/tides`)).json()).toMatchObject({ url: '/tides' });
});

describe("Upsetter's authority", () => {
  test('is made once, readable by its owner only, and the same after a restart', async () => {
    const again = await startTestUpsetter({ homeDir });
    closing.push(again.stop);
    const authority = await again.client.readAuthority();
    expect(authority.certificate).toBe(trusted);
    expect(authority.name).toMatch(/^Upsetter authority of /);
    const certificate = new X509Certificate(authority.certificate);
    expect([certificate.ca, certificate.fingerprint256]).toEqual([true, authority.fingerprint]);
    expect((await stat(join(homeDir, 'authority.pem'))).mode & 0o777).toBe(0o600);
    const download = await fetch(`${again.running.address}/api/authority.pem`);
    expect(download.headers.get('content-disposition')).toContain('upsetter-authority.pem');
    expect(await download.text()).toBe(trusted);
  });

  test('whose file is broken is refused with its path, and used once it is mended', async () => {
    const broken = await mkdtemp(join(tmpdir(), 'upsetter-home-'));
    const path = join(broken, 'authority.pem');
    await writeFile(path, 'no certificate');
    const other = await startTestUpsetter({ homeDir: broken });
    closing.push(other.stop, () => rm(broken, { recursive: true }));
    await expect(other.client.readAuthority()).rejects.toThrow(path);
    await expect(other.client.startTake({ name: 'x', proxy: {} })).rejects.toThrow(/holds no certificate/);
    await writeFile(path, await readFile(join(homeDir, 'authority.pem'), 'utf8'));
    expect((await other.client.readAuthority()).certificate).toBe(trusted);
  });
});
