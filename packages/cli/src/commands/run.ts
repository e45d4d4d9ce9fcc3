import { spawn } from 'node:child_process';
import { constants } from 'node:os';
import { UpsetterClient } from '@upsetter/client';
import { AppError, listNotes, requireService, type ServiceText } from '@upsetter/core';
import { type RunningUpsetter, startUpsetter } from '@upsetter/service';
import { EXIT } from '../exit.js';
import { renderNote } from '../output/render-note.js';
import { tell } from '../output/terminal.js';
import { aboutFile } from './about-file.js';
import { type CheckOptions, runCheckFile } from './check.js';
import { readServiceIn } from './service-text.js';
import { COMMON, readPort, readSize, untilEnded, writeReadyFile } from './start.js';

export interface RunOptions extends CheckOptions {
  readonly port?: string;
  readonly controlPort: string;
  readonly checks?: string;
  readonly ready?: string;
  readonly maxBody?: string;
  readonly host: string;
  readonly env?: string;
  readonly allow?: string[];
}

/**
 * The same service in memory, without a database. With a command: starts it with the addresses in its environment, waits
 * for its end, runs the checks, and ends with their exit code. Without one: until interrupted.
 */
export async function run(paths: readonly string[], command: readonly string[], options: RunOptions): Promise<number> {
  const files = await Promise.all(paths.map(async (path) => ({ path, given: await readServiceIn(path, options.env) })));
  const upsetter = await startUpsetter({
    ...COMMON,
    databaseUrl: null,
    host: options.host,
    port: readPort('--control-port', options.controlPort),
    firstMockPort: 0,
    forcedMockPort: options.port === undefined ? null : readPort('--port', options.port),
    maxBodyBytes: readSize(options.maxBody),
    allowedHosts: options.allow ?? [],
    logLevel: 'warn',
  });
  const ended = untilEnded();
  try {
    for (const { path, given } of files) await aboutFile(path, given.text, () => saveFile(upsetter, given));
    const addresses = Object.fromEntries(
      upsetter.mocks.list().map((mock) => [mock.name, mock.listener?.address ?? '']),
    );
    if (options.ready !== undefined)
      await writeReadyFile(options.ready, { control: upsetter.address, services: addresses });
    tell(`console  ${upsetter.address}`);
    for (const [name, address] of Object.entries(addresses)) tell(`mock     ${address}  ${name}`);
    const commandCode =
      command.length === 0 ? await ended.then(() => EXIT.done) : await runCommand(command, upsetter.address, addresses);
    const checkCode =
      options.checks === undefined
        ? EXIT.done
        : await runCheckFile(new UpsetterClient(upsetter.address), options.checks, options);
    return commandCode !== EXIT.done ? commandCode : checkCode;
  } finally {
    await upsetter.stop();
  }
}

async function saveFile(upsetter: RunningUpsetter, given: ServiceText): Promise<void> {
  const { name } = requireService(given.text, given.files);
  const { mock } = await upsetter.mocks.save(name, given, { note: null, basedOn: 0 });
  for (const note of listNotes(mock.live.compiled)) tell(renderNote(note));
}

/** Runs the command with `UPSETTER_URL` and, for each service, `UPSETTER_<NAME>_URL`; signals are passed on to it. Its exit code. */
function runCommand(
  command: readonly string[],
  control: string,
  addresses: Readonly<Record<string, string>>,
): Promise<number> {
  const [program = '', ...args] = command;
  const env = { ...process.env, UPSETTER_URL: control };
  for (const [name, address] of Object.entries(addresses)) Object.assign(env, { [variableOf(name)]: address });
  return new Promise((resolve, reject) => {
    const child = spawn(program, args, { stdio: 'inherit', env });
    const passOn = (signal: NodeJS.Signals): void => void child.kill(signal);
    process.on('SIGINT', passOn);
    process.on('SIGTERM', passOn);
    child.on('error', (error) =>
      reject(new AppError('file-unreadable', `the command ${program} cannot be run: ${error.message}`)),
    );
    // As a shell tells it: a command ended by a signal has 128 and the signal's number.
    child.on('exit', (code, signal) => resolve(code ?? 128 + (signal === null ? 0 : constants.signals[signal])));
  });
}

/** `berth-desk` -> `UPSETTER_BERTH_DESK_URL`. */
function variableOf(service: string): string {
  return `UPSETTER_${service.toUpperCase().replaceAll('-', '_')}_URL`;
}
