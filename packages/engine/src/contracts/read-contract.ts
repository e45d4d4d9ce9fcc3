import { realpathSync } from 'node:fs';
import { readFile, realpath } from 'node:fs/promises';
import { resolve, sep } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { AppError, findReferred } from '@upsetter/core';

/** A contract with the documents it refers to. */
export interface ReadContract {
  readonly text: string;
  readonly address: string;
  readonly texts: ReadonlyMap<string, string>;
  /** Documents that could not be read, and why: what needs them cannot be used. */
  readonly unread: readonly { readonly address: string; readonly reason: string }[];
  /** Of the main document; null: it has none. */
  readonly etag: string | null;
}

export interface ReadOptions {
  /** Whether the person who asks has named the source, its host with it. */
  readonly isNamed: boolean;
  /** What is known of the main document already: where it is still the same, nothing is read. */
  readonly etag: string | null;
  /** Files are read in this folder alone; left out: wherever they are. */
  readonly within?: string;
}

const BY_HAND: ReadOptions = { isNamed: true, etag: null };

const MOST_DOCUMENTS = 1_000;
const MOST_REDIRECTS = 5;
const LONGEST_WAIT_MS = 20_000;

/**
 * Reads a contract from a file or a URL, with all it refers to. Files are read wherever they are; URLs from the host that
 * was named, from loopback, and from the hosts in `allowed`, also where they redirect to. Fails with `file-unreadable` when
 * the contract itself cannot be read. Null: it has not changed.
 */
export function readContractFiles(source: string, allowed: readonly string[]): Promise<ReadContract>;
export function readContractFiles(
  source: string,
  allowed: readonly string[],
  options: ReadOptions,
): Promise<ReadContract | null>;
export async function readContractFiles(
  source: string,
  allowed: readonly string[],
  { isNamed, etag, within }: ReadOptions = BY_HAND,
): Promise<ReadContract | null> {
  const isUrl = /^https?:\/\//i.test(source);
  const address = isUrl ? new URL(source).href : pathToFileURL(resolve(source)).href;
  const named = isUrl && isNamed ? [new URL(source).hostname] : [];
  const reader = new ContractReader(new Set([...allowed, ...named].map((host) => host.toLowerCase())), within ?? null);
  const main = await reader.read(address, address, etag).catch((error: unknown) => {
    throw new AppError('file-unreadable', `${source}${isUrl ? '' : ' cannot be read'}: ${reasonOf(error)}`);
  });
  if (main === null) return null;
  await reader.readReferred(address, main.text);
  return { text: main.text, address, texts: reader.texts, unread: reader.unread, etag: main.etag };
}

/** A document that waits to be read, and the one that refers to it. */
interface Waiting {
  readonly address: string;
  readonly from: string;
  /** It leads nowhere: it is taken as it is. */
  readonly isExample: boolean;
}

class ContractReader {
  readonly texts = new Map<string, string>();
  readonly unread: { address: string; reason: string }[] = [];
  readonly #hosts: ReadonlySet<string>;
  readonly #within: string | null;

  constructor(hosts: ReadonlySet<string>, within: string | null) {
    this.#hosts = hosts;
    this.#within = within === null ? null : realpathSync(within) + sep;
  }

  /** Everything that the main document leads to. A document that cannot be read or parsed is told, and left out. */
  async readReferred(main: string, mainText: string): Promise<void> {
    const seen = new Set([main]);
    const waiting: Waiting[] = [];
    const addReferred = (from: string, text: string): void => {
      const { documents, examples } = findReferred(from, text);
      const isExample = new Set(examples);
      for (const address of [...documents, ...examples]) {
        if (seen.has(address)) continue;
        seen.add(address);
        waiting.push({ address, from, isExample: isExample.has(address) });
      }
    };
    // What is wrong with the main document itself is told by who reads it.
    try {
      addReferred(main, mainText);
    } catch {
      return;
    }
    for (let next = waiting.shift(); next !== undefined; next = waiting.shift()) {
      const { address, from, isExample } = next;
      try {
        if (this.texts.size >= MOST_DOCUMENTS) throw new Error(`a contract of more than ${MOST_DOCUMENTS} documents`);
        const { text } = (await this.read(address, from, null)) ?? { text: '' };
        if (!isExample) addReferred(address, text);
        this.texts.set(address, text);
      } catch (error) {
        this.unread.push({ address, reason: reasonOf(error) });
      }
    }
  }

  /** Null: it has the entity tag that is known. */
  async read(address: string, from: string, etag: string | null): Promise<ReadDocument | null> {
    const refusal = refuse(address, from, this.#hosts);
    if (refusal !== null) throw new Error(refusal);
    if (!address.startsWith('file:')) return this.#fetch(address, etag);
    const path = fileURLToPath(address);
    // Links may lead anywhere.
    if (this.#within !== null && !(await realpath(path)).startsWith(this.#within))
      throw new Error('it is outside of the repository');
    return { text: await readFile(path, 'utf8'), etag: null };
  }

  /** Each redirect is asked for anew: it may lead to a host that was not named. */
  async #fetch(start: string, etag: string | null): Promise<ReadDocument | null> {
    const signal = AbortSignal.timeout(LONGEST_WAIT_MS);
    const headers = etag === null ? {} : { 'if-none-match': etag };
    let address = start;
    for (let turn = 0; turn <= MOST_REDIRECTS; turn++) {
      const response = await fetch(address, { signal, headers, redirect: 'manual' });
      if (response.status === NOT_MODIFIED) return null;
      const target = response.status >= 300 && response.status < 400 ? response.headers.get('location') : null;
      if (target === null) {
        if (!response.ok) throw new Error(`it answers ${response.status}`);
        return { text: await response.text(), etag: response.headers.get('etag') };
      }
      const next = new URL(target, address).href;
      const refusal = refuse(next, address, this.#hosts);
      if (refusal !== null) throw new Error(`it redirects to ${next}: ${refusal}`);
      address = next;
    }
    throw new Error(`it redirects more than ${MOST_REDIRECTS} times`);
  }
}

interface ReadDocument {
  readonly text: string;
  readonly etag: string | null;
}

const NOT_MODIFIED = 304;

function reasonOf(error: unknown): string {
  const { code, message, cause } = error as NodeJS.ErrnoException;
  if (code === 'ENOENT') return 'there is no such file';
  return cause instanceof Error ? `${message}: ${(cause as NodeJS.ErrnoException).code ?? cause.message}` : message;
}

/** Why a document may not be read where another one (`from`) leads to it; null when it may. */
function refuse(address: string, from: string, hosts: ReadonlySet<string>): string | null {
  const { protocol, hostname } = new URL(address);
  if (protocol === 'file:')
    return from.startsWith('file:') ? null : 'a document from the network may not refer to a file';
  if (protocol !== 'http:' && protocol !== 'https:') return `references by ${protocol} are not followed`;
  if (/^(localhost|127\.\d+\.\d+\.\d+|\[::1\])$/.test(hostname) || hosts.has(hostname.toLowerCase())) return null;
  return `${hostname} was not named: --allow ${hostname} lets it be read`;
}
