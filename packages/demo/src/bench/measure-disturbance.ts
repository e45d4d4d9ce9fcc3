import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { UpsetterClient } from '@upsetter/client';
import { request } from 'undici';
import type { Contestant } from './contestant.js';
import { makeLargeContract } from './large-contract.js';
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
const MS_PER_SECOND = 1_000;

/** A mock under a light, steady load: alone, then while a draft of a long take is made beside it. */
export async function measureDisturbance(control: string, mock: Contestant): Promise<Disturbance[]> {
  const client = new UpsetterClient(control);
  await hearLongSession(client);
  const quiet = await loadWhile(mock, sleep(QUIET_SECONDS * MS_PER_SECOND));
  const drafting = timed(client.draftTake('bench-long'));
  const during = await loadWhile(mock, drafting);
  const { seconds: draftSeconds } = await drafting;
  const following = await loadWhileFollowing(client, mock);
  return [
    { label: 'alone', ...quiet, draftSeconds: null },
    { label: `while ${EXCHANGES} exchanges are drafted`, ...during, draftSeconds },
    { label: 'while a contract of 10 MB is fetched, drafted and saved', ...following },
  ];
}

async function loadWhileFollowing(client: UpsetterClient, mock: Contestant): Promise<Omit<Disturbance, 'label'>> {
  const folder = await mkdtemp(join(tmpdir(), 'upsetter-bench-'));
  const path = join(folder, 'large.json');
  await writeFile(path, makeLargeContract());
  await client.addFeed({ name: 'bench-large', service: 'bench-large', source: { kind: 'file', path } });
  const following = timed(client.runFeed('bench-large'));
  // What follows a save (its report is asked for, checks are compiled) counts as well.
  const during = await loadWhile(
    mock,
    following.then(() => sleep(MS_PER_SECOND)),
  );
  const { result: run, seconds: draftSeconds } = await following;
  if (run.outcome !== 'created') throw new Error(`the large contract was not drafted: ${run.message}`);
  await client.removeFeed('bench-large');
  await rm(folder, { recursive: true });
  return { ...during, draftSeconds };
}

async function timed<T>(work: Promise<T>): Promise<{ result: T; seconds: number }> {
  const startedMs = performance.now();
  const result = await work;
  return { result, seconds: (performance.now() - startedMs) / MS_PER_SECOND };
}

/** One call every few milliseconds, whatever the one before does, until the work is done. */
async function loadWhile(mock: Contestant, work: Promise<unknown>): Promise<{ p50Ms: number; p99Ms: number }> {
  const times: number[] = [];
  const calls: Promise<void>[] = [];
  let isDone = false;
  const end = (): void => {
    isDone = true;
  };
  work.then(end, end);
  while (!isDone) {
    calls.push(timeCall(mock.url + BENCH_PATH, times));
    await sleep(MS_PER_SECOND / CALLS_PER_SECOND);
  }
  await Promise.all(calls);
  times.sort((a, b) => a - b);
  const at = (share: number): number => times[Math.floor(times.length * share)] ?? Number.NaN;
  return { p50Ms: at(0.5), p99Ms: at(0.99) };
}

async function timeCall(url: string, times: number[]): Promise<void> {
  const startedMs = performance.now();
  const { body } = await request(url);
  await body.text();
  times.push(performance.now() - startedMs);
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
