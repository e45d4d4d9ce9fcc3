import { readFile, writeFile } from 'node:fs/promises';
import type { Draft } from '@upsetter/core';
import { AppError } from '@upsetter/core/light';
import type { TakeStart, TakeSummary } from '@upsetter/core/wire';
import { EXIT } from '../exit.js';
import { renderCount } from '../output/render-count.js';
import { renderTable } from '../output/render-table.js';
import { describeSource, renderExchanges, renderStart, renderTake } from '../output/render-take.js';
import { paint, print, printJson, tellWhenLong } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';
import { type DraftOptions, finishDraft, readChoices, readContract, readPort } from './draft.js';

export interface TakeStartOptions extends CommonOptions {
  readonly from?: string;
  readonly proxy?: boolean;
  readonly hear?: string[];
  readonly port?: string;
  readonly mask?: string[];
  readonly rewrite?: boolean;
  readonly authority?: string;
}

export async function startTake(name: string, options: TakeStartOptions): Promise<number> {
  const take = await connect(options).startTake({
    name,
    ...readSource(options),
    port: options.port === undefined ? 0 : readPort(options.port),
    masks: options.mask ?? [],
    rewrites: options.rewrite === true,
    authority: options.authority === undefined ? null : await readAuthority(options.authority),
  });
  if (options.json === true) printJson(take);
  else print(renderStart(take, options.hear ?? []));
  return EXIT.done;
}

/** Whom to hear, and how. */
function readSource({ from, proxy, hear, rewrite }: TakeStartOptions): Pick<TakeStart, 'from' | 'proxy'> {
  if (proxy === true) {
    if (from !== undefined)
      throw new AppError('wrong-use', 'a take is heard with --from URL or through --proxy, not both');
    if (rewrite === true)
      throw new AppError('wrong-use', '--rewrite belongs to --from: behind a proxy nothing has to be led back');
    return { proxy: { hosts: hear ?? [] } };
  }
  if (hear !== undefined)
    throw new AppError('wrong-use', '--hear chooses hosts of --proxy; --from names its service itself');
  if (from === undefined)
    throw new AppError('wrong-use', 'say whom to hear: --from URL of the real service, or --proxy for whatever passes');
  return { from };
}

async function readAuthority(path: string): Promise<string> {
  try {
    return await readFile(path, 'utf8');
  } catch (error) {
    throw new AppError('file-unreadable', `${path} cannot be read: ${(error as Error).message}`);
  }
}

export async function stopTake(name: string, options: CommonOptions): Promise<number> {
  const client = connect(options);
  const take = await client.stopTake(name);
  return showWhole(take, options);
}

export async function showTake(name: string, options: CommonOptions): Promise<number> {
  return showWhole(await connect(options).readTake(name), options);
}

const PAGE = 500;
const MOST_SHOWN = 200;

async function showWhole(take: TakeSummary, options: CommonOptions): Promise<number> {
  const client = connect(options);
  const exchanges = [];
  for (let after: number | null = -1; after !== null; ) {
    const page = await client.listExchanges(take.name, after, PAGE);
    exchanges.push(...page.exchanges);
    after = page.next;
  }
  if (options.json === true) printJson({ ...take, exchanges });
  else {
    print(renderTake(take));
    if (exchanges.length > 0) print(renderExchanges(exchanges.slice(-MOST_SHOWN)));
    if (exchanges.length > MOST_SHOWN)
      print(paint.faint(`the last ${MOST_SHOWN} of ${exchanges.length}; all with --json`));
  }
  return EXIT.done;
}

export async function listTakes(options: CommonOptions): Promise<number> {
  const takes = await connect(options).listTakes();
  if (options.json === true) printJson(takes);
  else if (takes.length === 0) print('No takes yet. Begin: upsetter take start NAME --from URL');
  else {
    const rows = takes.map((take) => [
      take.name,
      take.state === 'open' ? paint.good('open') : take.state,
      renderCount(take.exchanges, 'exchange'),
      take.startedAt.slice(0, 19).replace('T', ' '),
      describeSource(take),
    ]);
    print(renderTable(['take', 'state', 'heard', 'since', 'from'], rows));
  }
  return EXIT.done;
}

export async function keepCall(id: string, options: CommonOptions): Promise<number> {
  const take = await connect(options).keepCall(id);
  if (options.json === true) printJson(take);
  else print(`kept in the take ${take.name}, ${renderCount(take.exchanges, 'exchange')} so far`);
  return EXIT.done;
}

export async function removeTake(name: string, options: CommonOptions): Promise<number> {
  await connect(options).removeTake(name);
  if (options.json === true) printJson({ removed: name });
  else print(`removed the take ${name}`);
  return EXIT.done;
}

export async function exportTake(name: string, options: CommonOptions & { har?: string }): Promise<number> {
  const har = JSON.stringify(await connect(options).readHar(name));
  if (options.har === undefined) process.stdout.write(`${har}\n`);
  else {
    await writeFile(options.har, har).catch((error: Error) => {
      throw new AppError('file-unreadable', `${options.har} cannot be written: ${error.message}`);
    });
    print(`wrote ${options.har}`);
  }
  return EXIT.done;
}

/** A service from what was heard: written to a file, adopted, or printed. */
export async function draftTake(names: string[], options: DraftOptions): Promise<number> {
  const [name = '', ...others] = names;
  const { overrules, masks: _masks, ...choices } = readChoices(options);
  const drafting = connect(options).draftTake(name, {
    ...choices,
    with: others,
    contract: await readContract(options),
    ...(options.as === undefined ? {} : { service: options.as }),
    port: options.port === undefined ? null : readPort(options.port),
    overrules: Object.fromEntries(overrules),
  });
  const draft = await tellWhenLong('drafting', drafting);
  return finishDraft(draft as Draft, `the take ${names.join(', ')}`, options);
}
