import { writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { AppError, type Draft, draftHar, draftOpenApi } from '@upsetter/core';
import { EXIT } from '../exit.js';
import { renderCount } from '../output/render-count.js';
import { paint, print, printJson, tell } from '../output/terminal.js';
import { aboutFile } from './about-file.js';
import { renderSaved } from './apply.js';
import { type CommonOptions, connect } from './connect.js';
import { readInput } from './read-input.js';

export interface DraftOptions extends CommonOptions {
  readonly as?: string;
  readonly output?: string;
  readonly adopt?: boolean;
  readonly replace?: boolean;
  readonly port?: string;
  readonly origin?: string;
}

/** A service from a HAR file or an OpenAPI document: written to a file, adopted by the running service, or printed. */
export async function draftFile(format: 'har' | 'openapi', path: string, options: DraftOptions): Promise<number> {
  const text = await readInput(path);
  const port = options.port === undefined ? null : readPort(options.port);
  const draft = await aboutFile(path, text, async () =>
    format === 'har'
      ? draftHar(text, {
          service: options.as ?? nameFromPath(path),
          origin: options.origin ?? null,
          port,
          level: 'alive',
        })
      : draftOpenApi(text, { service: options.as ?? null, port }),
  );
  if (options.output !== undefined) await writeDraft(options.output, draft.text);
  const saved = options.adopt === true ? await adopt(draft, path, options) : null;
  if (options.json === true) printJson({ ...draft, saved });
  else {
    if (options.output === undefined && saved === null) process.stdout.write(draft.text);
    tell(renderDraft(draft, options.output ?? null));
    if (saved !== null) print(renderSaved(saved));
  }
  return EXIT.done;
}

async function adopt(draft: Draft, path: string, options: DraftOptions) {
  const client = connect(options);
  const isKnown = (await client.listServices()).some((service) => service.name === draft.service);
  if (isKnown && options.replace !== true) {
    throw new AppError(
      'changed-since',
      `there is a service ${draft.service} already: --replace goes over it, --as NAME gives the draft another name`,
    );
  }
  return aboutFile('draft', draft.text, () =>
    client.saveService(draft.service, draft.text, { note: `adopted draft of ${basename(path)}` }),
  );
}

async function writeDraft(path: string, text: string): Promise<void> {
  try {
    await writeFile(path, text);
  } catch (error) {
    throw new AppError('file-unreadable', `${path} cannot be written: ${(error as Error).message}`);
  }
}

function nameFromPath(path: string): string {
  const name = basename(path)
    .replace(/\.[^.]*$/, '')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replaceAll(/^-+|-+$/g, '');
  return name === '' ? 'service' : name;
}

function readPort(text: string): number {
  const port = Number(text);
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    throw new AppError('wrong-use', `--port is a number from 0 to 65535, not ${text}`);
  return port;
}

function renderDraft(draft: Draft, output: string | null): string {
  const lines = [
    `${paint.strong(draft.service)}: ${renderCount(draft.operations, 'operation')}, ${renderCount(draft.cases, 'case')}${output === null ? '' : `, written to ${output}`}`,
  ];
  for (const { of, concluded, evidence } of draft.decisions)
    lines.push(`  ${paint.strong(of)}  ${concluded}  ${paint.faint(evidence)}`);
  if (draft.unusable.length > 0)
    lines.push(paint.warn(`${renderCount(draft.unusable.length, 'part')} could not be used:`));
  for (const { at, reason } of draft.unusable) lines.push(`  ${at}  ${reason}`);
  return lines.join('\n');
}
