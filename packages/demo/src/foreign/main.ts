import { startUpsetter } from '@upsetter/service';
import { type PlayedContract, playContract } from './play-contract.js';

/**
 * Plays contracts that nobody here wrote: `node packages/demo/dist/foreign/main.js FILE...`. Each is drafted and run, each of
 * its operations called with a made-up valid call, each answer held against the contract by an independent validator.
 */
const upsetter = await startUpsetter({
  databaseUrl: null,
  host: '127.0.0.1',
  port: 0,
  firstMockPort: 0,
  forcedMockPort: 0,
  maxBodyBytes: 10_000_000,
  keptCalls: 100,
  consoleDir: null,
  homeDir: '/nonexistent',
  allowedHosts: [],
  logLevel: 'error',
  version: 'foreign',
});
const MOST_LINES = 8;
const LONGEST_LINE = 260;
const all: PlayedContract[] = [];
for (const file of process.argv.slice(2)) {
  try {
    const played = await playContract(file, upsetter.address);
    all.push(played);
    console.log(describe(played));
  } catch (error) {
    console.log(`${file}: ${(error as Error).message.slice(0, LONGEST_LINE)}`);
    process.exitCode = 1;
  }
}
const sum = (count: (own: PlayedContract) => number): number => all.reduce((total, own) => total + count(own), 0);
console.log(
  `${all.length} contracts, ${sum((own) => own.operations)} operations, ${sum((own) => own.answers)} answers in JSON: ` +
    `${sum((own) => own.wrong.invalidCalls.length)} calls not valid, ${sum((own) => own.wrong.unanswered.length)} refused, ` +
    `${sum((own) => own.wrong.invalidAnswers.length)} answers not valid, ${sum((own) => own.doubted)} are examples that contradict their own schema`,
);
await upsetter.stop();

function describe({ name, bytes, draftMs, operations, answers, doubted, wrong }: PlayedContract): string {
  const head = `${name}  ${(bytes / 1e6).toFixed(1)} MB  drafted in ${Math.round(draftMs)} ms  ${operations} operations, ${answers} answers, ${doubted} doubted`;
  const lines = Object.entries(wrong).flatMap(([what, list]) => [
    ...(list.length > 0 ? [`  ${list.length} ${what}`] : []),
    ...list.slice(0, MOST_LINES).map((line) => `    ${what}  ${line.slice(0, LONGEST_LINE)}`),
  ]);
  return [head, ...lines].join('\n');
}
