import { CommanderError } from 'commander';
import { fileOf } from './commands/about-file.js';
import { EXIT, exitCodeOf, problemOf } from './exit.js';
import { renderProblem } from './output/render-problem.js';
import { tell } from './output/terminal.js';
import { createProgram } from './program.js';

const dashes = process.argv.indexOf('--');
const own = dashes < 0 ? process.argv : process.argv.slice(0, dashes);
const passed = dashes < 0 ? [] : process.argv.slice(dashes + 1);

process.exitCode = await main(own, passed);

/** Runs one command line; whatever ends it becomes an exit code, and a message that says what, where and what to do. */
async function main(argv: readonly string[], command: readonly string[]): Promise<number> {
  const outcome = { exitCode: EXIT.done as number };
  try {
    await createProgram(outcome, command).parseAsync([...argv]);
    return outcome.exitCode;
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? EXIT.done : EXIT.wrongUse;
    const problem = problemOf(error);
    if (problem === null) {
      tell(`a mistake of ours: ${(error as Error).stack ?? String(error)}`);
      return EXIT.wrongUse;
    }
    tell(own.includes('--json') ? JSON.stringify(problem) : renderProblem(problem, fileOf(error)));
    return exitCodeOf(problem.code);
  }
}

// A pipe that is closed early (upsetter calls | head) is no error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
});
