import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { UpsetterClient } from '@upsetter/client';
import { request } from 'undici';
import type { Contestant } from './contestant.js';
import { BENCH_PATH } from './service-file.js';
import { type Spread, spreadOf } from './statistics.js';

export interface RelayFigures {
  readonly directMs: Spread;
  readonly relayedMs: Spread;
  /** The relayed call over the direct one, round by round. */
  readonly addedMs: Spread;
  readonly bigBytes: number;
  readonly grownKb: number;
}

const CALLS = 400;
const BIG_BYTES = 1_000_000_000;
const PIECE = Buffer.alloc(1 << 16, 'x');

/** One call after the other, direct and through a relay, in turn; then a body of 1 GB, and what it does to the memory of the process. */
export async function measureRelay(
  control: string,
  real: Contestant,
  pid: number,
  rounds: number,
): Promise<RelayFigures> {
  const client = new UpsetterClient(control);
  const take = await client.startTake({ name: 'bench', from: real.url });
  const relay = take.address ?? '';
  const direct: number[] = [];
  const relayed: number[] = [];
  await medianOf(real.url);
  await medianOf(relay);
  for (let round = 0; round < rounds; round++) {
    direct.push(await medianOf(real.url));
    relayed.push(await medianOf(relay));
  }
  await client.stopTake('bench');
  const grownKb = await passBigBody(client, pid);
  const addedMs = spreadOf(relayed.map((ms, i) => ms - (direct[i] ?? Number.NaN)));
  return { directMs: spreadOf(direct), relayedMs: spreadOf(relayed), addedMs, bigBytes: BIG_BYTES, grownKb };
}

async function medianOf(address: string): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < CALLS; i++) {
    const startedMs = performance.now();
    const { body } = await request(address + BENCH_PATH);
    await body.text();
    times.push(performance.now() - startedMs);
  }
  return spreadOf(times).median;
}

async function passBigBody(client: UpsetterClient, pid: number): Promise<number> {
  const server = createServer((_incoming, outgoing) => {
    let left = Math.ceil(BIG_BYTES / PIECE.length);
    const write = (): void => {
      while (left-- > 0) if (!outgoing.write(PIECE)) return void outgoing.once('drain', write);
      outgoing.end();
    };
    write();
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const take = await client.startTake({
    name: 'bench-big',
    from: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
  });
  const before = peakKb(pid);
  const { body } = await request(take.address ?? '');
  let bytes = 0;
  for await (const chunk of body) bytes += (chunk as Buffer).length;
  if (bytes < BIG_BYTES) throw new Error(`only ${bytes} bytes came through`);
  const after = peakKb(pid);
  await client.stopTake('bench-big');
  server.close();
  server.closeAllConnections();
  return after - before;
}

/** The most memory a process ever had (VmHWM), in kB. */
function peakKb(pid: number): number {
  return Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1]);
}
