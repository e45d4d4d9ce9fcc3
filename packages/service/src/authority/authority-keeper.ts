import { X509Certificate } from 'node:crypto';
import { chmod, link, mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { AppError } from '@upsetter/core';
import { type Authority, createAuthority, type KeyedCertificate, makeAuthority } from '@upsetter/engine';

const FILE = 'authority.pem';
const OWNER_ONLY = 0o600;
const OWNER_ONLY_DIRECTORY = 0o700;

/** Keeps Upsetter's own authority on this machine: made on first use, the same ever after. */
export class AuthorityKeeper {
  readonly #directory: string;
  #authority: Promise<Authority> | null = null;

  /** `directory`: where what belongs to this machine is kept. */
  constructor(directory: string) {
    this.#directory = directory;
  }

  /** Fails with `authority-unusable`. */
  open(): Promise<Authority> {
    this.#authority ??= this.#load().catch((error: unknown) => {
      this.#authority = null;
      throw error;
    });
    return this.#authority;
  }

  async #load(): Promise<Authority> {
    const path = join(this.#directory, FILE);
    try {
      const text = (await readText(path)) ?? (await this.#make(path));
      return createAuthority(parse(text));
    } catch (error) {
      const why = (error as Error).message;
      throw new AppError(
        'authority-unusable',
        `Upsetter's authority in ${path} cannot be used: ${why}`,
        { path },
        error,
      );
    }
  }

  /** Of two processes that make it at once, one wins; both use the winner's. */
  async #make(path: string): Promise<string> {
    const now = Date.now();
    const day = new Date(now).toISOString().slice(0, 10);
    const { certificatePem, keyPem } = await makeAuthority(`Upsetter authority of ${hostname()} ${day}`, now);
    const text = `${certificatePem.trim()}\n${keyPem}`;
    await mkdir(this.#directory, { recursive: true, mode: OWNER_ONLY_DIRECTORY });
    const part = `${path}.${process.pid}`;
    await writeFile(part, text, { mode: OWNER_ONLY });
    await chmod(part, OWNER_ONLY);
    try {
      await link(part, path);
      return text;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      return await readFile(path, 'utf8');
    } finally {
      await rm(part, { force: true });
    }
  }
}

async function readText(path: string): Promise<string | null> {
  try {
    return await readFile(path, 'utf8');
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return null;
    throw error;
  }
}

function parse(text: string): KeyedCertificate {
  const [certificatePem, keyPem] = text.match(/-----BEGIN [^-]+-----[^-]+-----END [^-]+-----/g) ?? [];
  if (certificatePem === undefined || keyPem === undefined)
    throw new Error('it holds no certificate followed by its key');
  if (new Date(new X509Certificate(certificatePem).validTo) < new Date()) throw new Error('it has expired');
  return { certificatePem: `${certificatePem}\n`, keyPem: `${keyPem}\n` };
}
