import type { UpsetterClient } from '@upsetter/client';
import { AppError, requireService, type ServiceText } from '@upsetter/core';
import type { Saved } from '@upsetter/core/wire';
import { EXIT } from '../exit.js';
import { renderNote } from '../output/render-note.js';
import { paint, print, printJson } from '../output/terminal.js';
import { aboutFile } from './about-file.js';
import { type CommonOptions, connect } from './connect.js';
import { readServiceIn } from './service-text.js';

const APPLIED = 'applied';

export interface ApplyOptions extends CommonOptions {
  readonly replace?: boolean;
  readonly reset?: boolean;
  readonly env?: string;
  /** Beside other versions of the same service: as NAME@VERSION. */
  readonly sideBySide?: boolean;
}

/** Creates or replaces services from files. Each file is saved or refused whole; edits made since the last apply are not overwritten unasked. */
export async function applyFiles(paths: readonly string[], options: ApplyOptions): Promise<number> {
  const client = connect(options);
  const saved: Saved[] = [];
  for (const path of paths) {
    const given = await readServiceIn(path, options.env);
    const result = await aboutFile(path, given.text, () => applyFile(client, given, path, options));
    saved.push(result);
    if (options.json !== true) print(renderSaved(result));
  }
  if (options.json === true) printJson(saved);
  return EXIT.done;
}

async function applyFile(
  client: UpsetterClient,
  { text, files }: ServiceText,
  path: string,
  { replace = false, sideBySide = false, reset = false }: ApplyOptions,
): Promise<Saved> {
  const { name: own, definition } = requireService(text, files);
  const name = sideBySide ? `${own}@${requireVersion(definition.version)}` : own;
  const basedOn = replace ? null : await lastApplied(client, name, text);
  const note = `${APPLIED} from ${path}`;
  return client.saveService(name, text, { files, note, reset, ...(basedOn === null ? {} : { basedOn }) });
}

function requireVersion(version: string | undefined): string {
  if (version !== undefined) return version;
  throw new AppError('wrong-use', 'versions stand side by side by their `version`, and the file has none');
}

/** The revision an apply may go over: the last one, when that was an apply or says the same. 0 for a new service. */
async function lastApplied(client: UpsetterClient, name: string, text: string): Promise<number> {
  const service = (await client.listServices()).find((item) => item.name === name);
  if (service === undefined) return 0;
  const [latest] = await client.listRevisions(name);
  if (latest === undefined || latest.note?.startsWith(APPLIED) === true) return service.revision;
  if ((await client.readService(name)).file === text) return service.revision;
  throw new AppError(
    'changed-since',
    `${name} was changed since the last apply (revision ${latest.revision}: ${latest.note ?? 'no note'}). --replace overwrites it; upsetter show ${name} --file prints what is there`,
  );
}

/** One line of what a save came to. */
export function renderSaved(saved: Saved): string {
  const what = saved.created
    ? paint.good('created ')
    : saved.changed
      ? paint.good('changed ')
      : paint.faint('the same');
  const line = `${what}  ${saved.name}  revision ${saved.revision}  ${saved.address ?? paint.bad(saved.trouble ?? 'not listening')}`;
  const kept = saved.keptRows.map(
    ({ lane, dataset }) =>
      `  lane ${lane} keeps its own rows of ${dataset}; upsetter lane reset ${lane} begins with those of the file`,
  );
  return [line, ...saved.notes.map(renderNote), ...kept.map(paint.warn)].join('\n');
}
