import autocannon from 'autocannon';
import type { Contestant } from './contestant.js';
import { BENCH_PATH } from './service-file.js';

/** One turn of one contestant. */
export interface Turn {
  readonly callsPerSecond: number;
  readonly p50Ms: number;
  readonly p99Ms: number;
  readonly ownCpuMicros: number;
  readonly databaseCpuMicros: number;
}

const CONNECTIONS = 32;
const MICROS = 1_000_000;

/** All contestants in turn, round after round, so that what else the machine does falls on all alike. */
export async function measureServers(
  contestants: readonly Contestant[],
  rounds: number,
  seconds: number,
): Promise<Map<Contestant, Turn[]>> {
  const turns = new Map<Contestant, Turn[]>(contestants.map((contestant) => [contestant, []]));
  for (const contestant of contestants) await takeTurn(contestant, 2); // warm-up, not counted
  for (let round = 0; round < rounds; round++) {
    const order = round % 2 === 0 ? contestants : [...contestants].reverse();
    for (const contestant of order) turns.get(contestant)?.push(await takeTurn(contestant, seconds));
  }
  return turns;
}

async function takeTurn(contestant: Contestant, seconds: number): Promise<Turn> {
  const before = contestant.cpuSeconds();
  const result = await autocannon({
    url: `${contestant.url}${BENCH_PATH}`,
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
