import { writeFile } from 'node:fs/promises';
import type { UpsetterClient } from '@upsetter/client';
import { AppError, parseDuration } from '@upsetter/core/light';
import type { CheckRun } from '@upsetter/core/wire';
import { EXIT } from '../exit.js';
import { renderChecks } from '../output/render-checks.js';
import { print, printJson } from '../output/terminal.js';
import { aboutFile } from './about-file.js';
import { type CommonOptions, connect } from './connect.js';
import { readInput } from './read-input.js';

export interface CheckOptions extends CommonOptions {
  readonly junit?: string;
  readonly within?: string;
  readonly since?: string;
  readonly lane?: string;
}

export async function checkFile(path: string, options: CheckOptions): Promise<number> {
  return runCheckFile(connect(options), path, options);
}

/** Runs a checks file through a client; prints the outcome, writes JUnit XML when asked. Exit code 1 when one does not hold. */
export async function runCheckFile(client: UpsetterClient, path: string, options: CheckOptions): Promise<number> {
  const file = await readInput(path);
  const withinMs = options.within === undefined ? 0 : parseDuration(options.within);
  if (withinMs === null) throw new AppError('wrong-use', `--within is a duration such as 5s, not ${options.within}`);
  const run: CheckRun = await aboutFile(path, file, () =>
    client.runChecks({
      file,
      withinMs,
      ...(options.lane === undefined ? {} : { lane: options.lane }),
      ...(options.since === undefined ? {} : { since: options.since }),
    }),
  );
  if (options.json === true) printJson(run);
  else print(renderChecks(run));
  if (options.junit !== undefined) {
    const { renderJunit } = await import('@upsetter/core');
    await writeFile(options.junit, renderJunit(path, run.results));
  }
  return run.holds ? EXIT.done : EXIT.notHeld;
}
