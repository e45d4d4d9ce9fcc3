import { copyFile, mkdir, readdir, readFile, stat, writeFile } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import {
  AppError,
  type BesideFile,
  type BesideFiles,
  ENVIRONMENTS_FILE,
  type FilePattern,
  listBeside,
  listFilePatterns,
  namesOfPattern,
  type ServiceText,
} from '@upsetter/core';
import { parseDocument } from 'yaml';
import { readInput } from './read-input.js';

/** A service file with the files beside it that it refers to; one that is not there is told when the file is loaded. Fails with `file-unreadable`. */
export async function readServiceText(path: string): Promise<ServiceText> {
  const text = await readInput(path);
  return { text, files: await readBesideFiles(dirname(path), text) };
}

/** The same with an environment in use: that of `--env`, which the environments beside the file have. Fails with `wrong-use`. */
export async function readServiceIn(path: string, environment: string | undefined): Promise<ServiceText> {
  const given = await readServiceText(path);
  if (environment === undefined) return given;
  const file = given.files[ENVIRONMENTS_FILE];
  if (file?.kind !== 'text') throw new AppError('wrong-use', describeNoEnvironment(path, given.text, environment));
  const document = parseDocument(file.content);
  document.set('use', environment);
  const content = document.toString({ lineWidth: 0 });
  return { ...given, files: { ...given.files, [ENVIRONMENTS_FILE]: { kind: 'text', content } } };
}

function describeNoEnvironment(path: string, text: string, environment: string): string {
  return listBeside(text).includes(ENVIRONMENTS_FILE)
    ? `--env ${environment}: there is no environments.yaml beside ${path}`
    : `--env ${environment}: ${path} has no \`variables\``;
}

/** The files in a folder that a service file's text refers to, and those that these refer to. */
export async function readBesideFiles(directory: string, text: string): Promise<BesideFiles> {
  const files: Record<string, BesideFile> = {};
  for (const pattern of listFilePatterns(text))
    for (const name of await namesIn(directory, pattern)) {
      const file = await readBeside(resolve(directory, name));
      if (file !== null) files[name] = file;
    }
  const read = new Set<string>();
  // Files that are read may refer to others.
  for (
    let names = listBeside(text);
    names.length > 0;
    names = listBeside(text, files).filter((name) => !read.has(name))
  )
    for (const name of names) {
      read.add(name);
      const file = await readBeside(resolve(directory, name));
      if (file !== null) files[name] = file;
    }
  return files;
}

async function namesIn(directory: string, pattern: FilePattern): Promise<string[]> {
  const entries = await readdir(join(directory, pattern.folder)).catch(() => []);
  return namesOfPattern(
    pattern,
    entries.map((name) => `${pattern.folder}${name}`),
  );
}

/** Larger ones stay where they are: they are sent from there. */
const LARGE_BYTES = 8_000_000;

async function readBeside(path: string): Promise<BesideFile | null> {
  try {
    const { size } = await stat(path);
    if (size > LARGE_BYTES) return { kind: 'path', content: path, size };
    return toBeside(await readFile(path));
  } catch {
    return null;
  }
}

/** Text where it is text, so that what is kept of it can be read. */
function toBeside(bytes: Buffer): BesideFile {
  try {
    return { kind: 'text', content: new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes) };
  } catch {
    return { kind: 'base64', content: bytes.toString('base64') };
  }
}

/** Writes a service file and the files beside it. Fails with `file-unreadable`. */
export async function writeServiceText(path: string, { text, files }: ServiceText): Promise<void> {
  await writeBeside(path, text);
  await writeFiles(dirname(path), text, files);
}

/** Only what the text refers to: a name that leads out of the folder is none of them. */
async function writeFiles(directory: string, text: string, files: BesideFiles): Promise<void> {
  for (const name of listBeside(text, files)) {
    const file = Object.hasOwn(files, name) ? files[name] : undefined;
    if (file === undefined) continue;
    const { kind, content } = file;
    const path = join(directory, name);
    await mkdir(dirname(path), { recursive: true }).catch((error: Error) => refuse(path, error));
    if (kind !== 'path') await writeBeside(path, kind === 'text' ? content : Buffer.from(content, 'base64'));
    else if (resolve(path) !== content) await copyFile(content, path).catch((error: Error) => refuse(path, error));
  }
}

async function writeBeside(path: string, content: string | Buffer): Promise<void> {
  await writeFile(path, content).catch((error: Error) => refuse(path, error));
}

function refuse(path: string, error: Error): never {
  throw new AppError('file-unreadable', `${path} cannot be written: ${error.message}`);
}
