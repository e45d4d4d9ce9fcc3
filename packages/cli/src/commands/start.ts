import { existsSync } from 'node:fs';
import { rename, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { homedir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { AppError } from '@upsetter/core/light';
import type { UpsetterOptions } from '@upsetter/service';

const BYTES: Readonly<Record<string, number>> = { B: 1, kB: 1_000, MB: 1_000_000, GB: 1_000_000_000 };
const LARGEST_BODY_BYTES = 10_000_000;

export const VERSION: string = (createRequire(import.meta.url)('../../package.json') as { version: string }).version;

/** The console's built files, where they were built; null when they were not. */
export function findConsole(): string | null {
  const directory = fileURLToPath(new URL('../../../console/dist', import.meta.url));
  return existsSync(directory) ? directory : null;
}

/** `10MB`, `512kB` in bytes. */
export function readSize(text: string | undefined): number {
  if (text === undefined) return LARGEST_BODY_BYTES;
  const match = /^(\d+(?:\.\d+)?)(B|kB|MB|GB)$/.exec(text);
  if (match === null) throw new AppError('wrong-use', `--max-body is a size such as 512kB or 10MB, not ${text}`);
  return Number(match[1]) * (BYTES[match[2] ?? 'B'] ?? 1);
}

export function readPort(option: string, text: string): number {
  const port = Number(text);
  if (text.trim() === '' || !Number.isInteger(port) || port < 0 || port > 65535)
    throw new AppError('wrong-use', `${option} is a port from 0 to 65535, not ${text}`);
  return port;
}

/** Addresses by name; null for a mock that could not be opened. */
export interface ReadyAddresses {
  readonly control: string;
  readonly services: Readonly<Record<string, string | null>>;
}

/** Writes the addresses where a waiting program looks for them: the file appears whole. */
export async function writeReadyFile(path: string, addresses: ReadyAddresses): Promise<void> {
  await writeFile(`${path}.part`, JSON.stringify(addresses));
  await rename(`${path}.part`, path);
}

/** Resolves at the first SIGINT or SIGTERM. */
export function untilEnded(): Promise<void> {
  return new Promise((resolve) => {
    process.once('SIGINT', () => resolve());
    process.once('SIGTERM', () => resolve());
  });
}

/** Where what belongs to this machine is kept: `UPSETTER_HOME`, else a folder of the user's own data. */
function findHome(): string {
  const { UPSETTER_HOME: home, XDG_DATA_HOME: data } = process.env;
  if (home !== undefined && home !== '') return home;
  return join(data === undefined || data === '' ? join(homedir(), '.local', 'share') : data, 'upsetter');
}

export const COMMON: Pick<UpsetterOptions, 'consoleDir' | 'version' | 'keptCalls' | 'homeDir'> = {
  consoleDir: findConsole(),
  version: VERSION,
  keptCalls: null,
  homeDir: findHome(),
};
