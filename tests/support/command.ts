import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtemp, readFile, watch } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const COMMAND = fileURLToPath(new URL('../../packages/cli/bin/upsetter.js', import.meta.url));

export interface Finished {
  readonly code: number | null;
  readonly out: string;
  readonly err: string;
}

/** Runs the built command to its end. */
export async function upsetter(args: readonly string[], env: Readonly<Record<string, string>> = {}): Promise<Finished> {
  return finish(launch(args, env));
}

export function launch(args: readonly string[], env: Readonly<Record<string, string>> = {}): ChildProcess {
  return spawn(process.execPath, [COMMAND, ...args], {
    env: { ...process.env, NO_COLOR: '1', UPSETTER_HOME: join(tmpdir(), 'upsetter-test-home'), ...env },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
}

export async function finish(child: ChildProcess): Promise<Finished> {
  let out = '';
  let err = '';
  child.stdout?.on('data', (data) => (out += String(data)));
  child.stderr?.on('data', (data) => (err += String(data)));
  const [code] = (await once(child, 'close')) as [number | null];
  return { code, out, err };
}

export interface Started {
  readonly child: ChildProcess;
  readonly control: string;
  readonly services: Readonly<Record<string, string>>;
  readonly finished: Promise<Finished>;
}

/** Starts `up` or `run` and waits for its ready file; rejects with what it said when it ends before. */
export async function startCommand(
  args: readonly string[],
  env: Readonly<Record<string, string>> = {},
): Promise<Started> {
  const directory = await mkdtemp(join(tmpdir(), 'upsetter-test-'));
  const appeared = waitForFile(directory, 'ready.json');
  const child = launch([...args, '--ready', join(directory, 'ready.json')], env);
  const finished = finish(child);
  const ended = finished.then(({ code, err }) => Promise.reject(new Error(`ended with ${code}: ${err}`)));
  ended.catch(() => {});
  await Promise.race([appeared, ended]);
  const { control, services } = JSON.parse(await readFile(join(directory, 'ready.json'), 'utf8')) as Pick<
    Started,
    'control' | 'services'
  >;
  return { child, control, services, finished };
}

async function waitForFile(directory: string, name: string): Promise<void> {
  for await (const { filename } of watch(directory)) if (filename === name) return;
}

/** Ends a started command as Ctrl-C does. */
export async function interrupt({ child, finished }: Started): Promise<Finished> {
  child.kill('SIGINT');
  return finished;
}
