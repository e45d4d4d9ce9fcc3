import { type BesideFiles, textOfBeside } from '../definition/beside/service-text.js';
import { AppError } from '../errors/app-error.js';
import { decodeSegment } from '../matching/path-template.js';
import type { Referred } from './contract.js';
import { readContractDocument } from './contract-document.js';
import type { ContractIndex } from './keeping/contract-index.js';
import { findReferred, isXml, openContract } from './open-contract.js';

/** Files beside a service file have addresses of their own, in a folder that references can be seen to leave. */
const FOLDER = 'beside:///-/';

/** A contract's file and those it leads to, as far as they are given. */
interface ContractNames {
  readonly names: readonly string[];
  /** Those of them that are examples: taken as they are. */
  readonly examples: ReadonlySet<string>;
}

/** The names of a contract's file and of those it refers to, as far as they are given. */
export function listContractFiles(file: string, files: BesideFiles): readonly string[] {
  return findNames(file, files).names;
}

function findNames(file: string, files: BesideFiles): ContractNames {
  const steps = readInSteps(file, files);
  let step = steps.next();
  while (step.done !== true) step = steps.next();
  return step.value;
}

/** The same, a document at a time: what was read is remembered, so that opening the contract takes little more. */
export function* readInSteps(file: string, files: BesideFiles): Generator<undefined, ContractNames, undefined> {
  const found = new Set([file]);
  const examples = new Set<string>();
  for (const name of found) {
    const text = textOf(name, files);
    if (text === null) continue;
    tryRead(name, text);
    yield;
    const referred = tryReferred(name, files);
    for (const address of referred?.documents ?? []) addName(address, found);
    for (const address of referred?.examples ?? []) addName(address, examples);
    yield;
  }
  return { names: [...new Set([...found, ...examples])], examples };
}

function addName(address: string, into: Set<string>): void {
  const name = nameOf(address);
  if (name !== null) into.add(name);
}

/** Documents that a contract leads to and that cannot be used: what needs them says nothing, the rest holds. */
export function listLostDocuments(
  file: string,
  files: BesideFiles,
): { readonly at: string; readonly reason: string }[] {
  const lost = new Map<string, string>();
  const { names, examples } = findNames(file, files);
  for (const name of names) {
    if (textOf(name, files) === null) lost.set(name, 'there is no such file beside the service file');
    if (examples.has(name)) continue;
    const referred = tryReferred(name, files);
    if (referred === null && !lost.has(name)) lost.set(name, 'it cannot be read');
    for (const address of [...(referred?.documents ?? []), ...(referred?.examples ?? [])])
      if (nameOf(address) === null) lost.set(address, 'it stands outside of the folder of the service file');
  }
  return [...lost].map(([at, reason]) => ({ at, reason }));
}

/** The contract that stands beside a service file. Fails with `file-unreadable` or `file-refused`. */
export function openBesideContract(file: string, files: BesideFiles): ContractIndex {
  const text = textOf(file, files);
  if (text === null) throw new AppError('file-unreadable', `there is no file ${file} beside the service file`);
  const { names, examples } = findNames(file, files);
  const texts = new Map(
    names.flatMap((name) => {
      const own = textOf(name, files);
      // A broken one is as one that is not there: what needs it says nothing, calls go on.
      const isUsable = own !== null && (name === file || examples.has(name) || tryReferred(name, files) !== null);
      return isUsable ? [[addressOfBeside(name), own] as const] : [];
    }),
  );
  const known = opened.find((entry) => entry.file === file && isSame(entry.texts, texts));
  if (known !== undefined) return known.index;
  const index = openContract(text, addressOfBeside(file), texts);
  opened.unshift({ file, texts, index });
  opened.length = Math.min(opened.length, MOST_OPENED);
  return index;
}

interface Opened {
  readonly file: string;
  readonly texts: ReadonlyMap<string, string>;
  readonly index: ContractIndex;
}

/** Services are saved again and again while their contract stays: reading it and compiling its schemas is done once. */
const opened: Opened[] = [];
const MOST_OPENED = 16;

function isSame(a: ReadonlyMap<string, string>, b: ReadonlyMap<string, string>): boolean {
  return a.size === b.size && [...a].every(([address, text]) => b.get(address) === text);
}

/** What a document leads to; null: it is not there, or cannot be read. */
function tryReferred(name: string, files: BesideFiles): Referred | null {
  const text = textOf(name, files);
  if (text === null) return null;
  try {
    return findReferred(addressOfBeside(name), text);
  } catch {
    // What is wrong with it is said where it is used.
    return null;
  }
}

function tryRead(name: string, text: string): void {
  try {
    if (!isXml(text)) readContractDocument(addressOfBeside(name), text);
  } catch {
    // What is wrong with it is said where it is used.
  }
}

function textOf(name: string, files: BesideFiles): string | null {
  const file = Object.hasOwn(files, name) ? files[name] : undefined;
  return file === undefined ? null : textOfBeside(file);
}

/** The address that a file beside a service file has for references. */
export function addressOfBeside(name: string): string {
  return new URL(name, FOLDER).href;
}

/** Null for what is not beside the service file. */
function nameOf(address: string): string | null {
  return address.startsWith(FOLDER) ? `./${decodeSegment(address.slice(FOLDER.length))}` : null;
}
