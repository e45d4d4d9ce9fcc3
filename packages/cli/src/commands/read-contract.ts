import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { AppError, findReferredAddresses, readContractDocument } from '@upsetter/core';
import { describeUnreadable } from './read-input.js';

/** A contract with the documents it refers to. */
export interface ReadContract {
  readonly text: string;
  readonly address: string;
  readonly texts: ReadonlyMap<string, string>;
  /** Documents that could not be read, and why: what needs them cannot be used. */
  readonly unread: readonly { readonly address: string; readonly reason: string }[];
}

const MOST_DOCUMENTS = 1_000;
const LONGEST_WAIT_MS = 20_000;

/**
 * Reads a contract from a file or a URL, with all it refers to. Files are read wherever they are; URLs from the host that
 * was named, from loopback, and from the hosts in `allowed`. Fails with `file-unreadable` when the contract itself cannot be read.
 */
export async function readContractFiles(source: string, allowed: readonly string[]): Promise<ReadContract> {
  const isUrl = /^https?:\/\//i.test(source);
  const address = isUrl ? new URL(source).href : pathToFileURL(resolve(source)).href;
  const hosts = new Set([...allowed, ...(isUrl ? [new URL(source).hostname] : [])].map((host) => host.toLowerCase()));
  const text = await readText(address).catch((error: unknown) => {
    throw isUrl ? new AppError('file-unreadable', `${source}: ${reasonOf(error)}`) : describeUnreadable(source, error);
  });
  const texts = new Map<string, string>();
  const unread: { address: string; reason: string }[] = [];
  const waiting = referred(address, text, unread);
  const seen = new Set([address, ...waiting]);
  for (let next = waiting.shift(); next !== undefined && seen.size <= MOST_DOCUMENTS; next = waiting.shift()) {
    const refusal = refuse(next, isUrl, hosts);
    const own =
      refusal === null ? await readText(next).catch((error: unknown) => reasonFor(next ?? '', error, unread)) : null;
    if (refusal !== null) unread.push({ address: next, reason: refusal });
    if (own === null) continue;
    const found = referred(next, own, unread);
    if (!unread.some(({ address: broken }) => broken === next)) texts.set(next, own);
    for (const other of found) {
      if (seen.has(other)) continue;
      seen.add(other);
      waiting.push(other);
    }
  }
  return { text, address, texts, unread };
}

/** The addresses a document refers to; none when it cannot be parsed, which is told (the contract's own says it itself). */
function referred(address: string, text: string, unread: { address: string; reason: string }[]): string[] {
  try {
    return findReferredAddresses(readContractDocument(address, text));
  } catch (error) {
    unread.push({ address, reason: reasonOf(error) });
    return [];
  }
}

function reasonFor(address: string, error: unknown, unread: { address: string; reason: string }[]): null {
  unread.push({ address, reason: reasonOf(error) });
  return null;
}

function reasonOf(error: unknown): string {
  const { code, message, cause } = error as NodeJS.ErrnoException;
  if (code === 'ENOENT') return 'there is no such file';
  return cause instanceof Error ? `${message}: ${(cause as NodeJS.ErrnoException).code ?? cause.message}` : message;
}

/** Why a reference is not followed; null when it is. */
function refuse(address: string, isUrl: boolean, hosts: ReadonlySet<string>): string | null {
  const { protocol, hostname } = new URL(address);
  if (protocol === 'file:') return isUrl ? 'a document from the network may not refer to a file' : null;
  if (protocol !== 'http:' && protocol !== 'https:') return `references by ${protocol} are not followed`;
  if (/^(localhost|127\.\d+\.\d+\.\d+|\[::1\])$/.test(hostname) || hosts.has(hostname.toLowerCase())) return null;
  return `${hostname} was not named: --allow ${hostname} lets it be read`;
}

async function readText(address: string): Promise<string> {
  if (address.startsWith('file:')) return readFile(fileURLToPath(address), 'utf8');
  const response = await fetch(address, { signal: AbortSignal.timeout(LONGEST_WAIT_MS), redirect: 'follow' });
  if (!response.ok) throw new Error(`it answers ${response.status}`);
  return response.text();
}
