import { createHash } from 'node:crypto';
import { type BesideFiles, type ContractFiles, isXml } from '@upsetter/core';
import { type ReadContract, readContractFiles } from '../contracts/read-contract.js';
import { readFromGit } from './read-from-git.js';

/** Where a contract is fetched from again and again. */
export type FeedSource =
  | { readonly kind: 'file'; readonly path: string }
  /** `branch` null: the one that the repository has for its own. */
  | { readonly kind: 'git'; readonly repository: string; readonly branch: string | null; readonly path: string }
  | { readonly kind: 'url'; readonly url: string };

/** `same`: nothing is new. `unread`: documents that could not be read, or stand where they cannot stand beside a service file. */
export type FetchedFeed =
  | { readonly kind: 'same' }
  | {
      readonly kind: 'fetched';
      /** What tells this version from others: a commit, an entity tag, a digest. */
      readonly version: string;
      readonly contract: ContractFiles;
      readonly unread: readonly { readonly at: string; readonly reason: string }[];
    };

/** A feed's contract with all that it refers to, unless it is the version that is known. Fails with `file-unreadable`. */
export async function fetchFeed(
  source: FeedSource,
  known: string | null,
  allowedHosts: readonly string[],
): Promise<FetchedFeed> {
  if (source.kind === 'git') {
    const read = await readFromGit(source, known, allowedHosts);
    return read === null ? { kind: 'same' } : toFetched(read.contract, read.version);
  }
  const from = source.kind === 'file' ? source.path : source.url;
  const etag = /^etag (.*)$/.exec(known ?? '')?.[1] ?? null;
  const read = await readContractFiles(from, allowedHosts, { isNamed: source.kind === 'file', etag });
  if (read === null) return { kind: 'same' };
  const version = read.etag === null ? `sha256 ${digestOf(read)}` : `etag ${read.etag}`;
  return version === known ? { kind: 'same' } : toFetched(read, version);
}

function digestOf({ text, texts }: ReadContract): string {
  const hash = createHash('sha256').update(text);
  for (const [address, own] of [...texts].sort(([a], [b]) => (a < b ? -1 : 1))) hash.update(address).update(own);
  return hash.digest('hex');
}

/** The documents as they stand beside a service file: those in the folder of the main one, and below it. */
function toFetched({ text, address, texts, unread }: ReadContract, version: string): FetchedFeed {
  const folder = new URL('.', address).href;
  const name = `./${nameOf(address, text)}`;
  const files: Record<string, BesideFiles[string]> = { [name]: { kind: 'text', content: text } };
  const lost = unread.map((own) => ({ at: own.address, reason: own.reason }));
  for (const [other, content] of texts) {
    const rest = other.startsWith(folder) ? decodeURIComponent(other.slice(folder.length)) : null;
    if (rest === null || rest.includes('?'))
      lost.push({ at: other, reason: 'it stands outside of the folder of the contract' });
    else files[`./${rest}`] = { kind: 'text', content };
  }
  return { kind: 'fetched', version, contract: { name, files }, unread: lost };
}

/** The last part of the address; with an ending by what it is where it has none. */
function nameOf(address: string, text: string): string {
  const last = decodeURIComponent(new URL(address).pathname.split('/').at(-1) ?? '').replaceAll(/[\s$]+/g, '-');
  if (/\.[A-Za-z0-9]{1,8}$/.test(last)) return last;
  const ending = isXml(text) ? 'wsdl' : /^\s*\{/.test(text) ? 'json' : 'yaml';
  return `${last === '' ? 'contract' : last}.${ending}`;
}
