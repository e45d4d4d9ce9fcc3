import { writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import {
  AppError,
  type ContractReport,
  checkCases,
  completeService,
  contractFileOf,
  listLostDocuments,
  loadService,
  openContract as openDocument,
  placeCheck,
  refuseFile,
  renderJunitCases,
  type ServiceText,
  type WantedPart,
} from '@upsetter/core';
import { readContractFiles } from '@upsetter/engine/outgoing';
import { EXIT } from '../exit.js';
import { renderContractCheck } from '../output/render-contract.js';
import { paint, print, printJson, tell } from '../output/terminal.js';
import { aboutFile } from './about-file.js';
import type { CommonOptions } from './connect.js';
import { readServiceText, writeServiceText } from './service-text.js';

export interface ContractOptions extends CommonOptions {
  readonly against?: string;
  readonly allow?: string[];
}

export interface ContractCheckOptions extends ContractOptions {
  readonly junit?: string;
}

export interface CompleteOptions extends ContractOptions {
  readonly response?: string;
}

type Check = Omit<ContractReport, 'file' | 'calls' | 'lost'>;

/** Holds each case of a service file against a contract; needs no running service. Exit code 1 when one differs. */
export async function checkContract(path: string, options: ContractCheckOptions): Promise<number> {
  const given = await readServiceText(path);
  const { service, source, index, unread } = await openBoth(path, given, options);
  const check = placeCheck(checkCases(service, index), source);
  // Its schemas were asked for by now: what of them is none, it knows.
  const { lost } = index;
  if (options.json === true) printJson({ ...check, unread, lost });
  else {
    tellUnread(unread);
    for (const { at, reason } of lost) tell(paint.warn(`${at} cannot be used: ${reason}`));
    print(renderContractCheck(check, path));
  }
  if (options.junit !== undefined) await writeJunit(options.junit, basename(path), check);
  const holds = check.unknown.length === 0 && check.cases.every(({ outcome }) => outcome !== 'differs');
  return holds ? EXIT.done : EXIT.notHeld;
}

/** Adds what the contract has and the service file has not: all of it, one operation (`GET /berths`), or one response of an operation. */
export async function completeFile(path: string, part: string | undefined, options: CompleteOptions): Promise<number> {
  const given = await readServiceText(path);
  const { index, unread } = await openBoth(path, given, options);
  const completed = completeService(given, index, readPart(part, options.response));
  if (completed.added.length > 0) await writeServiceText(path, completed);
  if (options.json === true) {
    printJson({ added: completed.added, unread });
    return EXIT.done;
  }
  tellUnread(unread);
  if (completed.added.length === 0) print(part === undefined ? 'Nothing is missing.' : `Nothing like that is missing.`);
  else print([...completed.added.map((name) => `${paint.good('added')}  ${name}`)].join('\n'));
  return EXIT.done;
}

function readPart(part: string | undefined, response: string | undefined): WantedPart | null {
  if (part === undefined && response === undefined) return null;
  if (part === undefined)
    throw new AppError(
      'wrong-use',
      'name the operation whose response is wanted: complete FILE readBerth --response 404',
    );
  if (response !== undefined) return { kind: 'response', operation: part, code: response };
  if (/^[A-Z]+ \//.test(part)) return { kind: 'operation', on: part };
  throw new AppError(
    'wrong-use',
    `an operation of the contract is a method and a path, such as 'GET /berths', not ${part}`,
  );
}

/** The service and the contract: the one that is named, else the one of the service file. */
async function openBoth(path: string, { text, files }: ServiceText, { against, allow = [] }: ContractOptions) {
  const loaded = await aboutFile(path, text, async () => {
    const result = loadService(text, files);
    if (result.kind === 'refused') throw refuseFile('the file', result.problems);
    return result;
  });
  const { service, source } = loaded;
  if (against !== undefined) return { service, source, ...(await openContract(against, allow)) };
  if (service.contract !== null) {
    const lost = listLostDocuments(contractFileOf(service.definition.contract) ?? '', files);
    const unread = lost.map(({ at, reason }) => ({ address: at, reason }));
    return { service, source, index: service.contract.index, unread };
  }
  throw new AppError(
    'wrong-use',
    `${path} names no contract (contract: ./berth-desk.openapi.yaml): name one with --against, a file or a URL`,
  );
}

async function openContract(against: string, allow: readonly string[]) {
  const { text, address, texts, unread } = await readContractFiles(against, allow);
  const index = await aboutFile(against, text, async () => openDocument(text, address, texts));
  return { index, unread };
}

function tellUnread(unread: readonly { readonly address: string; readonly reason: string }[]): void {
  for (const { address, reason } of unread) tell(paint.warn(`${address} was not read: ${reason}`));
}

async function writeJunit(path: string, suite: string, { cases, unknown }: Check): Promise<void> {
  const called = cases.filter(({ outcome }) => outcome !== 'not called');
  const report = renderJunitCases(suite, [
    ...called.map((own) => ({ name: `${own.operation} / ${own.case}`, tookMs: 0, failure: failureOf(own) })),
    ...unknown.map(({ operation, on }) => ({
      name: operation,
      tookMs: 0,
      failure: { message: `${on} is not in the contract`, detail: '' },
    })),
  ]);
  await writeFile(path, report).catch((error: Error) => {
    throw new AppError('file-unreadable', `${path} cannot be written: ${error.message}`);
  });
}

function failureOf({ findings }: Check['cases'][number]) {
  const [first] = findings;
  if (first === undefined) return null;
  return {
    message: `${first.at} ${first.message}`,
    detail: findings.map(({ at, message, rule }) => `${at} ${message} ${rule}`).join('\n'),
  };
}
