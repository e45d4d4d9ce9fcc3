import autocannon from 'autocannon';
import type { Contestant } from './contestant.js';
import { BENCH_PATH, STATEFUL } from './service-file.js';

/** One turn of one contestant. */
export interface Turn {
  readonly callsPerSecond: number;
  readonly p50Ms: number;
  readonly p99Ms: number;
  readonly ownCpuMicros: number;
  readonly databaseCpuMicros: number;
}

/** What is asked of a contestant: requests of autocannon, in turn. */
export type Load = readonly autocannon.Request[];

export const READING: Load = [{ path: BENCH_PATH }];
const JSON_TYPE = { 'content-type': 'application/json' };
/** Calls that state decides, and that change it. */
export const ARRIVING: Load = [{ method: 'POST', path: STATEFUL.path, headers: JSON_TYPE, body: STATEFUL.body }];

/** The same calls, spread over so many lanes. */
export function inLanes(count: number): Load {
  return Array.from({ length: count }, (_, i) => ({
    method: 'POST',
    path: STATEFUL.path,
    headers: { ...JSON_TYPE, 'upsetter-lane': `lane-${i}` },
    body: STATEFUL.body,
  }));
}

const CONNECTIONS = 32;
const MICROS = 1_000_000;

/** All contestants in turn, round after round, so that what else the machine does falls on all alike. */
export async function measureServers(
  contestants: readonly Contestant[],
  rounds: number,
  seconds: number,
  load: Load = READING,
): Promise<Map<Contestant, Turn[]>> {
  const turns = new Map<Contestant, Turn[]>(contestants.map((contestant) => [contestant, []]));
  for (const contestant of contestants) await takeTurn(contestant, 2, load); // warm-up, not counted
  for (let round = 0; round < rounds; round++) {
    const order = round % 2 === 0 ? contestants : [...contestants].reverse();
    for (const contestant of order) turns.get(contestant)?.push(await takeTurn(contestant, seconds, load));
  }
  return turns;
}

/** One contestant asked in two ways, in turn. */
export async function measureLoads(
  contestant: Contestant,
  loads: readonly [Load, Load],
  rounds: number,
  seconds: number,
): Promise<readonly [Turn[], Turn[]]> {
  const turns: readonly [Turn[], Turn[]] = [[], []];
  for (const load of loads) await takeTurn(contestant, 1, load); // warm-up
  for (let round = 0; round < rounds; round++)
    for (const i of round % 2 === 0 ? ([0, 1] as const) : ([1, 0] as const))
      turns[i].push(await takeTurn(contestant, seconds, loads[i]));
  return turns;
}

async function takeTurn(contestant: Contestant, seconds: number, load: Load): Promise<Turn> {
  const before = contestant.cpuSeconds();
  const result = await autocannon({
    url: contestant.url,
    requests: [...load],
    connections: CONNECTIONS,
    duration: seconds,
  });
  const after = contestant.cpuSeconds();
  const calls = result['2xx'];
  if (calls === 0 || result.non2xx > 0 || result.errors > 0)
    throw new Error(`${contestant.name}: ${result.non2xx} wrong answers, ${result.errors} errors`);
  return {
    callsPerSecond: calls / result.duration,
    p50Ms: result.latency.p50,
    p99Ms: result.latency.p99,
    ownCpuMicros: ((after.own - before.own) / calls) * MICROS,
    databaseCpuMicros: ((after.database - before.database) / calls) * MICROS,
  };
}
