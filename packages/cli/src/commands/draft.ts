import { existsSync } from 'node:fs';
import { basename } from 'node:path';
import {
  AppError,
  Contract,
  DRAFT_LEVELS,
  type Draft,
  type DraftLevel,
  draftContract,
  draftHar,
  inlineBodies,
  isXml,
  type Lexicon,
  lexiconSchema,
  type MergedDraft,
  mergeDraft,
  parseYamlFile,
  refuseFile,
  requireService,
  type ServiceText,
} from '@upsetter/core';
import { readContractFiles } from '@upsetter/engine/outgoing';
import { EXIT } from '../exit.js';
import { renderDraft, renderMerged } from '../output/render-draft.js';
import { paint, print, printJson, tell } from '../output/terminal.js';
import { aboutFile } from './about-file.js';
import { renderSaved } from './apply.js';
import { type CommonOptions, connect } from './connect.js';
import { followContract } from './follow-contract.js';
import { readHarFile } from './read-har-file.js';
import { readInput } from './read-input.js';
import { readServiceText, writeServiceText } from './service-text.js';

export interface DraftOptions extends CommonOptions {
  readonly as?: string;
  readonly output?: string;
  readonly adopt?: boolean;
  readonly replace?: boolean;
  readonly merge?: boolean;
  readonly port?: string;
  readonly origin?: string;
  readonly level?: string;
  readonly without?: string[];
  readonly only?: string[];
  readonly overrule?: string[];
  readonly mask?: string[];
  readonly contract?: string;
  /** Hosts that a contract's references may lead to. */
  readonly allow?: string[];
  readonly base?: boolean;
  readonly lexicon?: string;
  readonly rows?: string;
}

/** This many exchanges take more than a second to draft. */
const MANY_EXCHANGES = 500;

/** A service from a HAR file, an OpenAPI or a WSDL document: written to a file, adopted by the running service, or printed. */
export async function draftFile(
  format: 'har' | 'openapi' | 'wsdl',
  path: string,
  options: DraftOptions,
): Promise<number> {
  const draft = format === 'har' ? await draftFromHar(path, options) : await draftFromContract(format, path, options);
  return finishDraft(draft, basename(path), options);
}

async function draftFromHar(path: string, options: DraftOptions): Promise<Draft> {
  const choices = { ...readChoices(options), port: readGivenPort(options), contract: await readContract(options) };
  const har = await readHarFile(path);
  if (har.exchanges.length > MANY_EXCHANGES) tell(paint.faint(`drafting from ${har.exchanges.length} exchanges ...`));
  return aboutFile(path, '', async () => draftHar(har, { service: options.as ?? nameFromPath(path), ...choices }));
}

async function draftFromContract(format: 'openapi' | 'wsdl', path: string, options: DraftOptions): Promise<Draft> {
  const port = readGivenPort(options);
  const { text, unread, ...source } = await readContractFiles(path, options.allow ?? []);
  if (isXml(text) !== (format === 'wsdl'))
    throw new AppError(
      'wrong-use',
      format === 'wsdl'
        ? `${path} is no XML; for an OpenAPI or Swagger document: upsetter draft openapi ${path}`
        : `${path} is XML; for a WSDL document: upsetter draft wsdl ${path}`,
    );
  const choices = { service: options.as ?? null, port, only: options.only ?? [], without: options.without ?? [] };
  const beside = options.merge === true ? await readBeside(options.output) : {};
  const followed = await followContract(path, [...source.texts.keys()], options);
  const lexicon = options.lexicon === undefined ? null : await readLexicon(options.lexicon);
  const rows = options.rows === undefined ? null : readRows(options.rows);
  const draft = await aboutFile(path, text, async () =>
    draftContract(text, {
      lexicon,
      ...source,
      ...choices,
      ...beside,
      follow: followed?.name ?? null,
      base: options.base ?? true,
      rows,
    }),
  );
  const files = { ...draft.files, ...followed?.files };
  return {
    ...draft,
    files,
    unusable: [...unread.map(({ address, reason }) => ({ at: address, reason })), ...draft.unusable],
  };
}

/** A file of the team's words, as they stand under `lexicon` of a service file. */
async function readLexicon(path: string): Promise<Lexicon> {
  const text = await readInput(path);
  return aboutFile(path, text, async () => {
    const parsed = parseYamlFile(text, lexiconSchema, 'a lexicon');
    if (parsed.kind === 'refused') throw refuseFile('the lexicon', parsed.problems);
    return parsed.value;
  });
}

/** The service of the file that a draft is merged into: what it has is not drafted again. */
async function readBeside(output: string | undefined) {
  if (output === undefined || !existsSync(output)) return {};
  const current = await readServiceText(output);
  const beside = await aboutFile(output, current.text, async () => requireService(current.text, current.files));
  return { beside, service: beside.name };
}

/** Writes, adopts or prints a draft, and says what it concluded. */
export async function finishDraft(draft: Draft, source: string, options: DraftOptions): Promise<number> {
  const merged = options.merge === true && options.output !== undefined ? await mergeInto(options.output, draft) : null;
  if (options.output !== undefined) await writeServiceText(options.output, merged ?? draft);
  const saved = options.adopt === true ? await adopt(draft, source, options) : null;
  if (options.json === true) printJson({ ...draft, saved, merged });
  else {
    if (options.output === undefined && saved === null) process.stdout.write(inlineBodies(draft));
    tell(renderDraft(draft, options.output ?? null));
    if (merged !== null) tell(renderMerged(merged));
    if (saved !== null) print(renderSaved(saved));
    if (saved?.merged) tell(renderMerged(saved.merged));
  }
  return EXIT.done;
}

/** The text of the contract that names what was heard; null when none is given. Fails when it is no contract. */
export async function readContract({ contract }: DraftOptions): Promise<string | null> {
  if (contract === undefined) return null;
  const text = await readInput(contract);
  await aboutFile(contract, text, async () => new Contract(text));
  return text;
}

/** What the options say about how to draft. Fails with `wrong-use`. */
export function readChoices(options: DraftOptions) {
  return {
    origin: options.origin ?? null,
    level: readLevel(options.level),
    without: options.without ?? [],
    only: options.only ?? [],
    overrules: new Map((options.overrule ?? []).map(readOverrule)),
    masks: options.mask ?? [],
  };
}

function readLevel(text = 'alive'): DraftLevel {
  const level = DRAFT_LEVELS.find((name) => name === text);
  if (level === undefined) throw new AppError('wrong-use', `--level is ${DRAFT_LEVELS.join(', ')}, not ${text}`);
  return level;
}

/** `path:/berths/{}=literal`: everything after the last `=` is the value. */
function readOverrule(text: string): readonly [string, string] {
  const equals = text.lastIndexOf('=');
  if (equals <= 0) throw new AppError('wrong-use', `--overrule is ID=VALUE, not ${text}`);
  return [text.slice(0, equals), text.slice(equals + 1)];
}

async function adopt(draft: Draft, source: string, options: DraftOptions) {
  const client = connect(options);
  const isKnown = (await client.listServices()).some((service) => service.name === draft.service);
  if (isKnown && options.replace !== true && options.merge !== true) {
    throw new AppError(
      'changed-since',
      `there is a service ${draft.service} already: --merge keeps what was edited in it, --replace goes over it, --as NAME gives the draft another name`,
    );
  }
  return aboutFile('draft', draft.text, () =>
    client.saveService(draft.service, draft.text, {
      files: draft.files,
      note: `adopted draft of ${source}`,
      merge: options.merge === true,
    }),
  );
}

/** The draft merged into a file that is there; null when there is none yet. */
async function mergeInto(path: string, draft: ServiceText): Promise<MergedDraft | null> {
  if (!existsSync(path)) return null;
  const current = await readServiceText(path);
  await aboutFile(path, current.text, async () => requireService(current.text, current.files));
  return mergeDraft(current, draft);
}

function nameFromPath(path: string): string {
  const name = basename(path)
    .replace(/\.[^.]*$/, '')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replaceAll(/^-+|-+$/g, '');
  return name === '' ? 'service' : name;
}

/** Null: none was given. */
function readGivenPort({ port }: DraftOptions): number | null {
  return port === undefined ? null : readPort(port);
}

const MOST_ROWS = 10_000;

function readRows(text: string): number {
  const count = Number(text);
  if (!Number.isInteger(count) || count < 1 || count > MOST_ROWS)
    throw new AppError('wrong-use', `--rows is a number from 1 to ${MOST_ROWS}, not ${text}`);
  return count;
}

export function readPort(text: string): number {
  const port = Number(text);
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    throw new AppError('wrong-use', `--port is a number from 0 to 65535, not ${text}`);
  return port;
}
