import { writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import {
  AppError,
  type CheckedCase,
  Contract,
  type ContractCheck,
  checkCases,
  renderJunitCases,
  requireService,
} from '@upsetter/core';
import { EXIT } from '../exit.js';
import { renderContractCheck } from '../output/render-contract.js';
import { paint, print, printJson, tell } from '../output/terminal.js';
import { aboutFile } from './about-file.js';
import type { CommonOptions } from './connect.js';
import { readContractFiles } from './read-contract.js';
import { readServiceText } from './service-text.js';

export interface ContractCheckOptions extends CommonOptions {
  readonly against?: string;
  readonly junit?: string;
  readonly allow?: string[];
}

/** Holds each case of a service file against a contract; needs no running service. Exit code 1 when one differs. */
export async function checkContract(path: string, options: ContractCheckOptions): Promise<number> {
  if (options.against === undefined)
    throw new AppError('wrong-use', 'name the contract: --against berth-desk.openapi.yaml, a file or a URL');
  const { text, files } = await readServiceText(path);
  const service = await aboutFile(path, text, async () => requireService(text, files));
  const { text: contractText, address, texts, unread } = await readContractFiles(options.against, options.allow ?? []);
  const contract = await aboutFile(
    options.against,
    contractText,
    async () => new Contract(contractText, address, texts),
  );
  const check = checkCases(service, contract);
  if (options.json === true) printJson({ ...check, unread });
  else {
    for (const { address: lost, reason } of unread) tell(paint.warn(`${lost} was not read: ${reason}`));
    print(renderContractCheck(check));
  }
  if (options.junit !== undefined) await writeJunit(options.junit, basename(path), check);
  const holds = check.unknown.length === 0 && check.cases.every(({ outcome }) => outcome !== 'differs');
  return holds ? EXIT.done : EXIT.notHeld;
}

async function writeJunit(path: string, suite: string, { cases, unknown }: ContractCheck): Promise<void> {
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

function failureOf({ findings }: CheckedCase) {
  const [first] = findings;
  if (first === undefined) return null;
  return {
    message: `${first.at} ${first.message}`,
    detail: findings.map(({ at, message, rule }) => `${at} ${message} ${rule}`).join('\n'),
  };
}
