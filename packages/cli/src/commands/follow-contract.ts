import { dirname, relative, resolve, sep } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { BesideFiles } from '@upsetter/core';
import { readBesideFiles } from './service-text.js';

/** A contract that a drafted service can name: its name beside the service file, and its files where they have to be sent along. */
export interface FollowedContract {
  readonly name: string;
  readonly files: BesideFiles;
}

/** What names may be referred to in a service file. */
const NAME = /^\.\/[^\s$]+\.[A-Za-z0-9]{1,8}$/;

/**
 * A draft that is written below which the contract stands, or that is saved into the running service, follows it from then
 * on. Null where it cannot: the contract, or a document that it refers to, stands elsewhere. `addresses`: of those documents.
 */
export async function followContract(
  source: string,
  addresses: readonly string[],
  { output, adopt }: { readonly output?: string; readonly adopt?: boolean },
): Promise<FollowedContract | null> {
  if (/^https?:/i.test(source) || (output === undefined && adopt !== true)) return null;
  const folder = dirname(resolve(output ?? source));
  const name = nameIn(folder, resolve(source));
  const isBeside = (address: string): boolean =>
    address.startsWith('file:') && nameIn(folder, fileURLToPath(address)) !== null;
  if (name === null || !addresses.every(isBeside)) return null;
  return { name, files: adopt === true ? await readBesideFiles(folder, `contract: ${name}`) : {} };
}

function nameIn(folder: string, path: string): string | null {
  const name = `./${relative(folder, path).split(sep).join('/')}`;
  return name.startsWith('./../') || !NAME.test(name) ? null : name;
}
