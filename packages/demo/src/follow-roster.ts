import { execFile } from 'node:child_process';
import { copyFile, mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { UpsetterClient } from '@upsetter/client';

const run = promisify(execFile);
const ROSTER = 'pilot-roster';
const FILE = `${ROSTER}.openapi.yaml`;

/** The pilot roster follows its contract in a git repository; the second version that is committed breaks callers. */
export async function followRoster(client: UpsetterClient, files: string): Promise<void> {
  if ((await client.listFeeds()).some(({ name }) => name === ROSTER)) return;
  const repository = await mkdtemp(join(tmpdir(), 'upsetter-demo-roster-'));
  await git(repository, 'init', '--quiet', '--initial-branch', 'main');
  await commit(repository, join(files, ROSTER, 'first.openapi.yaml'));
  const source = { kind: 'git' as const, repository, branch: 'main', path: FILE };
  await client.addFeed({ name: ROSTER, service: ROSTER, source });
  await client.runFeed(ROSTER);
  await commit(repository, join(files, ROSTER, 'second.openapi.yaml'));
  await client.runFeed(ROSTER);
}

async function commit(repository: string, contract: string): Promise<void> {
  await copyFile(contract, join(repository, FILE));
  await git(repository, 'add', FILE);
  await git(repository, 'commit', '--quiet', '--message', 'The contract of the pilot roster');
}

async function git(repository: string, ...args: string[]): Promise<void> {
  const author = ['-c', 'user.name=Marit', '-c', 'user.email=marit@harbour.example'];
  await run('git', ['-C', repository, ...author, ...args]);
}
