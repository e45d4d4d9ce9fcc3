import { writeFile } from 'node:fs/promises';
import { cpus } from 'node:os';
import { fileURLToPath } from 'node:url';
import { type Contestant, startPlainServer, startRun, startUp } from './contestant.js';
import { measureContract } from './measure-contract.js';
import { measureContractDrafting } from './measure-contract-drafting.js';
import { measureDisturbance } from './measure-disturbance.js';
import { measureDrafting } from './measure-drafting.js';
import { type MatchingFigures, measureMatching } from './measure-matching.js';
import { measureMemory } from './measure-memory.js';
import { measureRelay } from './measure-relay.js';
import { measureRows } from './measure-rows.js';
import { ARRIVING, inLanes, measureLoads, measureServers, type Turn } from './measure-servers.js';
import { pairedRatios, renderSpread, type Spread, spreadOf } from './statistics.js';

const ROUNDS = Number(process.env['BENCH_ROUNDS'] ?? 9);
const SECONDS = Number(process.env['BENCH_SECONDS'] ?? 4);
const TARGET = fileURLToPath(new URL('../../../../docs/benchmarks.md', import.meta.url));

const databaseUrl = process.env['UPSETTER_DATABASE_URL'];
if (databaseUrl === undefined) throw new Error('UPSETTER_DATABASE_URL is not set: npm run bench sets it');
const matching = measureMatching(ROUNDS * 3);
const rowFigures = measureRows(ROUNDS);
const memory = measureMemory();
const drafting = await measureDrafting(Math.min(3, ROUNDS));
const contractDrafting = await measureContractDrafting(Math.min(5, ROUNDS));
const contestants = [await startPlainServer(), await startRun(), await startUp(databaseUrl)];
const turns = await measureServers(contestants, ROUNDS, SECONDS);
const [plain, run] = contestants as [Contestant, Contestant];
const arriving = await measureServers([plain, run], ROUNDS, SECONDS, ARRIVING);
const laned = await measureLoads(run, [inLanes(1), inLanes(1_000)], ROUNDS, Math.min(2, SECONDS));
const relay = await measureRelay(run.control, plain, run.pid, ROUNDS);
const contractCosts = await measureContract(run.control, ROUNDS, Math.min(2, SECONDS));
const disturbance = await measureDisturbance(run.control, run);
for (const contestant of contestants) await contestant.stop();
const report = renderReport(contestants, turns, matching);
await writeFile(TARGET, report);
console.log(report);

function renderTraffic(): string {
  const rows = disturbance.map(
    ({ label, p50Ms, p99Ms, draftSeconds }) =>
      `| ${label} | ${p50Ms.toFixed(1)} | ${p99Ms.toFixed(1)} | ${draftSeconds === null ? '' : draftSeconds.toFixed(1)} |`,
  );
  return `## Drafting a long session

Three kinds of things created, read, changed, finished, removed and listed, each draft in a process of its own (which holds the session, too),
fidelity included: median, quarter points of ${Math.min(3, ROUNDS)}. Aims: 10,000 exchanges (20 MB) in under 10 s and 500 MB.

| exchanges | level | seconds | peak memory, MB | cases | fidelity |
|---|---|---|---|---|---|
${drafting.join('\n')}

A mock under 200 calls a second beside it, in the same process:

| | p50, ms | p99, ms | draft, s |
|---|---|---|---|
${rows.join('\n')}

## Relaying

One call after the other over a kept connection, medians of ${ROUNDS} batches of 400 in turn. Aim: at most 1 ms added at the median.

| | ms |
|---|---|
| direct | ${renderSpread(relay.directMs)} |
| through a relay that is heard | ${renderSpread(relay.relayedMs)} |
| added | ${renderSpread(relay.addedMs)} |

A body of ${(relay.bigBytes / 1e9).toFixed(0)} GB passed through: the most memory the process ever had grew by ${(relay.grownKb / 1000).toFixed(0)} MB.
`;
}

function renderReport(
  all: readonly Contestant[],
  results: ReadonlyMap<Contestant, readonly Turn[]>,
  figures: readonly MatchingFigures[],
): string {
  const [reference] = all;
  const of = (contestant: Contestant | undefined, pick: (turn: Turn) => number): number[] =>
    contestant === undefined ? [] : (results.get(contestant) ?? []).map(pick);
  const rows = all.map((contestant) => {
    const ratio = pairedRatios(
      of(contestant, (turn) => turn.callsPerSecond),
      of(reference, (turn) => turn.callsPerSecond),
    );
    const cpuRatio = pairedRatios(
      of(contestant, (turn) => turn.ownCpuMicros),
      of(reference, (turn) => turn.ownCpuMicros),
    );
    const cells = [
      contestant.name,
      renderSpread(ratio),
      renderSpread(spreadOf(of(contestant, (turn) => turn.callsPerSecond)), 0),
      renderSpread(spreadOf(of(contestant, (turn) => turn.ownCpuMicros)), 1),
      renderSpread(cpuRatio),
      renderSpread(spreadOf(of(contestant, (turn) => turn.databaseCpuMicros)), 1),
      renderSpread(spreadOf(of(contestant, (turn) => turn.p99Ms)), 1),
    ];
    return `| ${cells.join(' | ')} |`;
  });
  const matchRows = figures.map(({ label, nanos }) => `| ${label} | ${renderSpread(spreadOf(nanos), 0)} |`);
  return `# Benchmarks

Written by \`npm run bench\` on ${new Date().toISOString().slice(0, 10)}: Node.js ${process.version}, ${cpus().length} cores (${cpus()[0]?.model ?? 'unknown'}).
The machine is shared and noisy: only figures of one run are comparable, and the ratios are what counts.

## One templated answer

A condition on the query, and a JSON answer with five values of which four come from the call, against the same answer
written by hand with Fastify 5 (response schema included). Each server is a process of its own; 32 connections on loopback ask for
${SECONDS} s in turn, ${ROUNDS} rounds in alternating order after a warm-up. Ratios are taken pair by pair within a round; medians, with the quarter points.
CPU time is the server process's own, user and system; PostgreSQL's is beside it (on these ${cpus().length} cores it competes with the server and the load).

| server | throughput ratio | calls a second | CPU a call, µs | CPU ratio | PostgreSQL CPU a call, µs | p99, ms |
|---|---|---|---|---|---|---|
${rows.join('\n')}

Aims: \`upsetter run\` 1.0, \`upsetter up\` 0.8.

${renderState()}
## Matching

Nanoseconds to find the operation and the case of one call (median, quarter points, ${ROUNDS * 3} batches of 20,000 calls in turn).
Cases are told apart by equality on one query parameter.

| service | ns a call |
|---|---|
${matchRows.join('\n')}

1,000 cases take ${renderSpread(caseRatio(figures))} times what 10 do. Aim: at most 1.5.

${renderRows()}
${renderContract()}
${renderTraffic()}`;
}

/** 1,000 cases over 10, round by round. */
function caseRatio(figures: readonly MatchingFigures[]): Spread {
  const nanosOf = (label: string) => figures.find((own) => own.label === label)?.nanos ?? [];
  return pairedRatios(nanosOf('1000 cases'), nanosOf('10 cases'));
}

function renderState(): string {
  const cpu = (turns: readonly Turn[] | undefined) => (turns ?? []).map(({ ownCpuMicros }) => ownCpuMicros);
  const pace = (turns: readonly Turn[] | undefined) => (turns ?? []).map(({ callsPerSecond }) => callsPerSecond);
  const [one, thousand] = laned;
  return `A POST with a JSON body that state decides and that changes it (two cases, a counter, a value kept by key), against the same written by hand: CPU ratio
${renderSpread(pairedRatios(cpu(arriving.get(run)), cpu(arriving.get(plain))))}, throughput ratio ${renderSpread(pairedRatios(pace(arriving.get(run)), pace(arriving.get(plain))))}. Aim: at most 1.1 times the CPU.

The same calls spread over 1,000 lanes against one lane: CPU ratio ${renderSpread(pairedRatios(cpu(thousand), cpu(one)))}, throughput ratio ${renderSpread(pairedRatios(pace(thousand), pace(one)))}. Aim: at most 1.1 times the CPU.

Memory: ${(memory.operationBytes / 1000).toFixed(1)} kB for each operation (one condition, two expressions), ${(memory.laneBytes / 1000).toFixed(1)} kB for each lane that was called and keeps a value.
`;
}

function renderRows(): string {
  const rows = rowFigures.map(({ label, ms }) => `| ${label} | ${renderSpread(ms, 3)} |`);
  return `## Rows

A resource with 100,000 rows, in a lane that has changed some. Aims: a filtered, sorted page under 20 ms; a row read and written by its key under 0.1 ms.

| call | ms |
|---|---|
${rows.join('\n')}
`;
}

function renderContract(): string {
  const rows = contractCosts.map(({ rule, ratio }) => `| ${rule} | ${renderSpread(ratio)} |`);
  return `## Calls held against a contract

A booking of 480 bytes with parameters, formats, enums and a list of maps, posted to the same service with and without its contract, in one
process, in turn: throughput with the contract over that without, medians of ${ROUNDS} pairs, with the quarter points. Aim: 0.7 or more.

| calls | throughput ratio |
|---|---|
${rows.join('\n')}

${renderContractDrafting()}`;
}

function renderContractDrafting(): string {
  const { megabytes, readMs, draftMs, ratio, readPeakMb, draftPeakMb } = contractDrafting;
  return `## Drafting a large contract

${megabytes.toFixed(1)} MB of OpenAPI with a thousand operations and circles, drafted (2,000 cases), over the same read and resolved by a general-purpose
library, each in a process of its own, in turn: medians of ${Math.min(5, ROUNDS)}, with the quarter points. Aim: at most 3.

| | ms | peak memory, MB |
|---|---|---|
| read and resolved | ${renderSpread(readMs, 0)} | ${renderSpread(readPeakMb, 0)} |
| drafted | ${renderSpread(draftMs, 0)} | ${renderSpread(draftPeakMb, 0)} |
| ratio | ${renderSpread(ratio)} | |
`;
}
