import { existsSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import {
  AppError,
  type CompiledService,
  renderTrialJunit,
  renderTrialPage,
  requireService,
  runTrial,
  type Trial,
  type TriedStep,
  USUAL_ENVIRONMENT,
} from '@upsetter/core';
import { createTrialSender } from '@upsetter/engine/outgoing';
import { EXIT } from '../exit.js';
import { renderTrialChanges, renderTrialStep, renderTrialSum } from '../output/render-trial.js';
import { print, printJson } from '../output/terminal.js';
import { aboutFile } from './about-file.js';
import { type CommonOptions, connect } from './connect.js';
import { readServiceText } from './service-text.js';

export interface TrialOptions extends CommonOptions {
  readonly against?: string;
  readonly writes?: boolean;
  readonly hostile?: boolean;
  readonly header?: string[];
  readonly rate?: string;
  readonly env?: string;
  readonly html?: string;
  readonly junit?: string;
}

const USUAL_RATE = '10';

/** Tries a service (of the running service, or a file) against a real implementation, call by call. Exit code 1 when something differs. */
export async function tryService(source: string, options: TrialOptions): Promise<number> {
  const against = readTarget(options.against);
  const service = await openService(source, options);
  const send = createTrialSender({
    against,
    headers: readHeaders(options.header ?? []),
    callsPerSecond: readRate(options.rate ?? USUAL_RATE),
  });
  const steps: TriedStep[] = [];
  const startedAt = new Date().toISOString();
  const environment = options.env ?? USUAL_ENVIRONMENT;
  const choices = { writes: options.writes === true, hostile: options.hostile === true, environment };
  for await (const step of runTrial(service, choices, send)) {
    steps.push(step);
    if (options.json !== true) print(renderTrialStep(step));
  }
  const trial: Trial = { service: service.name, against: against.href, environment, startedAt, steps };
  const kept = isFile(source) ? null : await keep(source, trial, options);
  if (options.json === true) printJson({ ...trial, id: kept?.id ?? null, since: kept?.since ?? null });
  else {
    print(renderTrialSum(trial));
    if (kept !== null) print(renderTrialChanges(kept));
  }
  if (options.html !== undefined) await writeReport(options.html, renderTrialPage(trial));
  if (options.junit !== undefined) await writeReport(options.junit, renderTrialJunit(trial));
  return steps.some(({ outcome }) => outcome === 'differs') ? EXIT.notHeld : EXIT.done;
}

function readTarget(text: string | undefined): URL {
  const hint = 'name the real implementation: --against http://127.0.0.1:4691';
  if (text === undefined) throw new AppError('wrong-use', hint);
  const url = URL.canParse(text) ? new URL(text) : null;
  if (url !== null && /^https?:$/.test(url.protocol)) return url;
  throw new AppError('wrong-use', `--against is an http or https URL, not ${text}`);
}

async function openService(source: string, options: TrialOptions): Promise<CompiledService> {
  if (isFile(source)) {
    const { text, files } = await readServiceText(source);
    return aboutFile(source, text, async () => requireService(text, files));
  }
  const { file, files } = await connect(options).readService(source);
  return requireService(file, files);
}

function isFile(source: string): boolean {
  return /\.(ya?ml|json)$/i.test(source) || existsSync(source);
}

/** A trial of a service that runs is kept there, with what changed since the one before. */
async function keep(name: string, { against, environment, startedAt, steps }: Trial, options: TrialOptions) {
  const client = connect(options);
  const { id } = await client.keepTrial(name, { against, environment, startedAt, steps });
  return client.readTrial(id);
}

function readHeaders(texts: readonly string[]): [string, string][] {
  return texts.map((text) => {
    const colon = text.indexOf(':');
    if (colon <= 0) throw new AppError('wrong-use', `--header is 'name: value', not ${text}`);
    return [text.slice(0, colon).trim().toLowerCase(), text.slice(colon + 1).trim()];
  });
}

function readRate(text: string): number {
  const rate = Number(text);
  if (!(rate > 0)) throw new AppError('wrong-use', `--rate is a number of calls a second, not ${text}`);
  return rate;
}

async function writeReport(path: string, text: string): Promise<void> {
  await writeFile(path, text).catch((error: Error) => {
    throw new AppError('file-unreadable', `${path} cannot be written: ${error.message}`);
  });
}
