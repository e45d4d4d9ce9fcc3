import { execFile } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve, sep } from 'node:path';
import { pathToFileURL } from 'node:url';
import { promisify } from 'node:util';
import { AppError } from '@upsetter/core';
import { type ReadContract, readContractFiles } from '../contracts/read-contract.js';

const run = promisify(execFile);
const LONGEST_MS = 60_000;
const MOST_OUTPUT_BYTES = 1_000_000;
/** Never asks for a password, reads no configuration that could run programs of others, knows no way but these. */
const ENVIRONMENT = { GIT_TERMINAL_PROMPT: '0', GIT_ALLOW_PROTOCOL: 'file:http:https:ssh', GIT_LFS_SKIP_SMUDGE: '1' };

export interface GitSource {
  readonly repository: string;
  readonly branch: string | null;
  readonly path: string;
}

/** A contract as it stands in a branch, by git itself; null: the branch is at the commit that is known. Fails with `file-unreadable`. */
export async function readFromGit(
  source: GitSource,
  known: string | null,
  allowedHosts: readonly string[],
): Promise<{ readonly version: string; readonly contract: ReadContract } | null> {
  refuseRepository(source.repository, allowedHosts);
  const commit = await findCommit(source);
  const version = `commit ${commit}`;
  if (version === known) return null;
  const folder = await mkdtemp(join(tmpdir(), 'upsetter-feed-'));
  try {
    const branch = source.branch === null ? [] : ['--branch', source.branch];
    await git(['clone', '--quiet', '--depth', '1', ...branch, '--', source.repository, folder]);
    const path = resolve(folder, source.path);
    if (!path.startsWith(folder + sep)) throw unreadable(`${source.path} is outside of the repository`);
    const read = await readContractFiles(path, allowedHosts, { isNamed: true, etag: null, within: folder }).catch(
      (error: Error) => {
        throw unreadable(error.message.replace(path, `${source.path} in ${source.repository}`));
      },
    );
    if (read === null) return null;
    return { version, contract: withoutFolder(read, folder) };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function findCommit({ repository, branch }: GitSource): Promise<string> {
  const wanted = branch === null ? 'HEAD' : `refs/heads/${branch}`;
  const out = await git(['ls-remote', '--quiet', '--', repository, wanted]);
  const commit = /^([0-9a-f]{40,64})\s/m.exec(out)?.[1];
  if (commit === undefined)
    throw unreadable(branch === null ? `${repository} has no commits` : `${repository} has no branch ${branch}`);
  return commit;
}

async function git(args: readonly string[]): Promise<string> {
  try {
    const { stdout } = await run('git', [...args], {
      timeout: LONGEST_MS,
      maxBuffer: MOST_OUTPUT_BYTES,
      env: { ...process.env, ...ENVIRONMENT },
    });
    return stdout;
  } catch (error) {
    const { code, stderr = '', message } = error as NodeJS.ErrnoException & { stderr?: string };
    if (code === 'ENOENT') throw unreadable('git is not installed');
    throw unreadable(`git: ${stderr.trim().split('\n').at(-1) || message}`);
  }
}

/** Hosts are asked for as with every outgoing call; folders of this machine are its own. */
function refuseRepository(repository: string, allowedHosts: readonly string[]): void {
  if (repository.startsWith('-')) throw unreadable(`${repository} is no repository`);
  const host = URL.canParse(repository)
    ? new URL(repository).hostname
    : (/^[^/\\]+@([^:/]+):/.exec(repository)?.[1] ?? '');
  const isNear = host === '' || /^(localhost|127(\.\d{1,3}){3}|\[::1\])$/.test(host);
  if (isNear || allowedHosts.includes(host)) return;
  throw new AppError(
    'upstream-refused',
    `a feed may not fetch from ${host}: only loopback and hosts named with --allow`,
  );
}

/** Addresses without the folder that is gone by now. */
function withoutFolder(read: ReadContract, folder: string): ReadContract {
  const here = pathToFileURL(folder + sep).href;
  const rename = (address: string): string =>
    address.startsWith(here) ? `git:///${address.slice(here.length)}` : address;
  return {
    ...read,
    address: rename(read.address),
    texts: new Map([...read.texts].map(([address, text]) => [rename(address), text])),
    unread: read.unread.map((own) => ({ ...own, address: rename(own.address) })),
  };
}

function unreadable(message: string): AppError {
  return new AppError('file-unreadable', message);
}
