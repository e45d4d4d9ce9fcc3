import { parse, parseDocument } from 'yaml';
import { listContractFiles } from '../../contract/beside-contract.js';
import { convertLong, parseExact } from '../../json/exact-json.js';
import type { NamedFiles } from '../answer-forms.js';
import { contractFileOf } from '../contract-key.js';
import { isJsonMap } from '../json-map.js';
import { ENVIRONMENTS_FILE, hasVariables } from '../variables.js';
import { type PathKey, renderPath } from '../yaml-source.js';
import { type BodyForm, bodySpots } from './body-spots.js';
import { type FilePattern, namesOfPattern, parseFilePattern } from './file-pattern.js';
import { type BesideFiles, isReference, textOfBeside } from './service-text.js';
import { type ColumnTypes, isCsv, isLines, readCsv, readJsonLines } from './table-file.js';

export interface BesideProblem {
  readonly path: readonly PathKey[];
  readonly message: string;
}

/** By rendered path: the file whose content stands there now. */
export type FromFiles = ReadonlyMap<string, string>;

const MAYBE_REFERENCE = /\.\/[^\s$]+\.[A-Za-z0-9]/;
const MAYBE_PATTERN = /\.\/\S*\$\{/;

/** The files that a service file's text refers to, and those that these refer to as far as they are given; none when it cannot be read. */
export function listBeside(text: string, files: BesideFiles = {}): string[] {
  // Most files refer to none: they need not be read a second time to know it.
  const environments = hasVariables(text) ? [ENVIRONMENTS_FILE] : [];
  if (!MAYBE_REFERENCE.test(text) && !MAYBE_PATTERN.test(text)) return environments;
  try {
    const definition = parse(text, { uniqueKeys: false, logLevel: 'silent', maxAliasCount: 0 }) as unknown;
    const names = bodySpots(definition).flatMap(({ value, form }) => {
      if (isReference(value)) return [value];
      const pattern = form === 'file' ? parseFilePattern(value) : null;
      return pattern === null ? [] : namesOfPattern(pattern, Object.keys(files));
    });
    const contract = isJsonMap(definition) ? contractFileOf(definition['contract']) : null;
    if (contract !== null) names.push(...listContractFiles(contract, files));
    return [...new Set([...environments, ...names])].filter((name) => !isOutside(name));
  } catch {
    // What is wrong with it is said when it is loaded.
    return [];
  }
}

/** Puts what files beside hold in the place of their names, in a plain value; `from` names the file of each path. */
export function resolveBeside(definition: unknown, files: BesideFiles): { problems: BesideProblem[]; from: FromFiles } {
  const problems: BesideProblem[] = [];
  const from = new Map<string, string>();
  for (const { path, form, value, types } of bodySpots(definition)) {
    if (types !== undefined && !(isReference(value) && isCsv(value)))
      problems.push({
        path: [...path.slice(0, -1), 'types'],
        message: '`types` says how a CSV file is read; `rows` names none',
      });
    const pattern = form === 'file' ? parseFilePattern(value) : null;
    if (pattern !== null) {
      const named = readNamed(String(value), pattern, files);
      if (named === null)
        problems.push({
          path,
          message: `no file beside has such a name: ${pattern.folder}${pattern.start}*${pattern.end}`,
        });
      else setAt(definition, path, named);
      continue;
    }
    if (!isReference(value)) continue;
    const read = readBeside(value, form, files, types);
    if (read.kind === 'refused') problems.push({ path, message: read.message });
    else {
      setAt(definition, path, read.value);
      from.set(renderPath(path), value);
    }
  }
  return { problems, from };
}

/** The files that a name made from the call may come to; null: there is none. */
function readNamed(name: string, pattern: FilePattern, files: BesideFiles): NamedFiles | null {
  const own = namesOfPattern(pattern, Object.keys(files)).flatMap((file) => {
    const read = readBeside(file, 'file', files);
    return read.kind === 'read' ? [[file, withoutName(read.value as object)] as const] : [];
  });
  return own.length === 0 ? null : { name, choices: Object.fromEntries(own) as NamedFiles['choices'] };
}

function withoutName(file: object): object {
  const { name: _, ...own } = file as { readonly name: string };
  return own;
}

/** The folders that may hold files which the service file's text names by the call: patterns of their names. */
export function listFilePatterns(text: string): readonly FilePattern[] {
  if (!MAYBE_PATTERN.test(text)) return [];
  try {
    const definition = parse(text, { uniqueKeys: false, logLevel: 'silent', maxAliasCount: 0 }) as unknown;
    return bodySpots(definition).flatMap(({ value, form }) => (form === 'file' ? (parseFilePattern(value) ?? []) : []));
  } catch {
    return [];
  }
}

type ReadBeside =
  | { readonly kind: 'read'; readonly value: unknown }
  | { readonly kind: 'refused'; readonly message: string };

/** What a file holds, as the place that refers to it wants it. */
export function readBeside(name: string, form: BodyForm, files: BesideFiles, types: unknown = {}): ReadBeside {
  if (isOutside(name))
    return { kind: 'refused', message: `${name} is outside of the service file's folder: files stand beside it` };
  const file = Object.hasOwn(files, name) ? files[name] : undefined;
  if (file === undefined) return { kind: 'refused', message: `there is no file ${name} beside the service file` };
  if (file.kind === 'path')
    return form === 'file'
      ? { kind: 'read', value: { name, path: file.content, size: file.size } }
      : { kind: 'refused', message: `${name} is too large to be read: only \`file\` sends one that stays where it is` };
  const bytes = (): string => (file.kind === 'base64' ? file.content : encode(file.content));
  if (form === 'base64') return { kind: 'read', value: bytes() };
  if (form === 'file') return { kind: 'read', value: { name, content: bytes() } };
  const text = textOfBeside(file);
  if (text === null) return { kind: 'refused', message: `${name} is no UTF-8 text` };
  if (form === 'text') return { kind: 'read', value: text };
  return form === 'rows' ? readRows(name, text, types) : readJson(name, text);
}

function readRows(name: string, text: string, types: unknown): ReadBeside {
  if (!isCsv(name) && !isLines(name)) return readJson(name, text);
  const read = isCsv(name) ? readCsv(text, (isJsonMap(types) ? types : {}) as ColumnTypes) : readJsonLines(text);
  return read.kind === 'read'
    ? { kind: 'read', value: read.rows }
    : { kind: 'refused', message: `${name}, ${read.message}` };
}

function readJson(name: string, text: string): ReadBeside {
  try {
    // Whole numbers beyond 2^53 as expressions, which keep their digits.
    return { kind: 'read', value: convertLong(parseExact(text), (long) => `\${${long}}`) };
  } catch {
    // Our own reader says where: the engine's words differ from one to the next.
    const [error] = parseDocument(text, { prettyErrors: true, logLevel: 'silent', schema: 'json' }).errors;
    const at = error?.linePos?.[0];
    const where = at === undefined ? '' : `, line ${at.line}, column ${at.col}`;
    return { kind: 'refused', message: `${name}${where}: not JSON` };
  }
}

function isOutside(name: string): boolean {
  return name.split('/').some((part, i) => part === '..' || (part === '.' && i > 0) || part === '');
}

function encode(text: string): string {
  return btoa(Array.from(new TextEncoder().encode(text), (byte) => String.fromCharCode(byte)).join(''));
}

function setAt(root: unknown, path: readonly PathKey[], value: unknown): void {
  let at = root as Record<PathKey, unknown>;
  for (const key of path.slice(0, -1)) at = at[key] as Record<PathKey, unknown>;
  at[path.at(-1) ?? ''] = value;
}
