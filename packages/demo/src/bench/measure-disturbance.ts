import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { UpsetterClient } from '@upsetter/client';
import autocannon from 'autocannon';
import { request } from 'undici';
import type { Contestant } from './contestant.js';
import { makeLongSession } from './long-session.js';
import { BENCH_PATH } from './service-file.js';

export interface Disturbance {
  readonly label: string;
  readonly p50Ms: number;
  readonly p99Ms: number;
  readonly draftSeconds: number | null;
}

const EXCHANGES = 5_000;
const CALLS_PER_SECOND = 200;
const QUIET_SECONDS = 4;

/** A mock under a light, steady load: alone, then while a draft of a long take is made beside it. */
export async function measureDisturbance(control: string, mock: Contestant): Promise<Disturbance[]> {
  const client = new UpsetterClient(control);
  await hearLongSession(client);
  const quiet = await load(mock, QUIET_SECONDS);
  const startedMs = performance.now();
  const drafting = client.draftTake('bench-long');
  const busy = load(mock, QUIET_SECONDS);
  await drafting;
  const draftSeconds = (performance.now() - startedMs) / 1000;
  const during = await busy;
  return [
    { label: 'alone', ...quiet, draftSeconds: null },
    { label: `while ${EXCHANGES} exchanges are drafted`, ...during, draftSeconds },
  ];
}

async function load(mock: Contestant, seconds: number): Promise<{ p50Ms: number; p99Ms: number }> {
  const { latency } = await autocannon({
    url: mock.url + BENCH_PATH,
    connections: 4,
    overallRate: CALLS_PER_SECOND,
    duration: seconds,
  });
  return { p50Ms: latency.p50, p99Ms: latency.p99 };
}

/** Plays the long session through a relay, against a server that answers as the session has it. */
async function hearLongSession(client: UpsetterClient): Promise<void> {
  const session = makeLongSession(EXCHANGES);
  let at = 0;
  const server = createServer((incoming, outgoing) => {
    incoming.resume();
    incoming.on('end', () => {
      const exchange = session[at++];
      outgoing.writeHead(exchange?.status ?? 500, exchange?.responseHeaders as string[]);
      outgoing.end(exchange?.body?.content);
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const take = await client.startTake({
    name: 'bench-long',
    from: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
  });
  for (const { method, path, query, requestBody } of session) {
    const { body } = await request(`${take.address}${path}`, {
      method: method as 'GET',
      query: Object.fromEntries(query),
      headers: requestBody === null ? {} : { 'content-type': 'application/json' },
      body: requestBody,
    });
    await body.text();
  }
  await client.stopTake('bench-long');
  server.close();
  server.closeAllConnections();
}
