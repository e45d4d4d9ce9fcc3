import { existsSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { setTimeout as wait } from 'node:timers/promises';
import {
  AppError,
  type CompiledService,
  renderJunitCases,
  renderTrialPage,
  requireService,
  runTrial,
  type SendCall,
  type Trial,
  type TriedStep,
} from '@upsetter/core';
import { EXIT } from '../exit.js';
import { renderTrialStep, renderTrialSum } from '../output/render-trial.js';
import { print, printJson } from '../output/terminal.js';
import { aboutFile } from './about-file.js';
import { type CommonOptions, connect } from './connect.js';
import { sendRequest } from './send-request.js';
import { readServiceText } from './service-text.js';

export interface TrialOptions extends CommonOptions {
  readonly against?: string;
  readonly writes?: boolean;
  readonly hostile?: boolean;
  readonly header?: string[];
  readonly rate?: string;
  readonly html?: string;
  readonly junit?: string;
}

const USUAL_RATE = '10';

/** Tries a service (of the running service, or a file) against a real implementation, call by call. Exit code 1 when something differs. */
export async function tryService(source: string, options: TrialOptions): Promise<number> {
  const against = readTarget(options.against);
  const service = await openService(source, options);
  const send = createSender(against, readHeaders(options.header ?? []), readRate(options.rate ?? USUAL_RATE));
  const steps: TriedStep[] = [];
  const startedAt = new Date().toISOString();
  const choices = { writes: options.writes === true, hostile: options.hostile === true };
  for await (const step of runTrial(service, choices, send)) {
    steps.push(step);
    if (options.json !== true) print(renderTrialStep(step));
  }
  const trial: Trial = { service: service.name, against: against.href, startedAt, steps };
  if (options.json === true) printJson(trial);
  else print(renderTrialSum(trial));
  if (options.html !== undefined) await writeReport(options.html, renderTrialPage(trial));
  if (options.junit !== undefined) await writeReport(options.junit, renderJunit(trial));
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
  if (/\.(ya?ml|json)$/i.test(source) || existsSync(source)) {
    const { text, files } = await readServiceText(source);
    return aboutFile(source, text, async () => requireService(text, files));
  }
  const { file, files } = await connect(options).readService(source);
  return requireService(file, files);
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

/** Sends calls to the real implementation, at most so many a second; its redirects are answers, too. */
function createSender(against: URL, headers: readonly (readonly [string, string])[], rate: number): SendCall {
  const gapMs = 1000 / rate;
  let nextMs = 0;
  return async (request) => {
    const waitMs = nextMs - performance.now();
    if (waitMs > 0) await wait(waitMs);
    const startedMs = performance.now();
    nextMs = startedMs + gapMs;
    const answer = await sendRequest(against, { ...request, headers: withHeaders(request.headers, headers) });
    return { answer, tookMs: performance.now() - startedMs };
  };
}

/** Headers that are given take the place of those that were made up. */
function withHeaders(own: readonly string[], given: readonly (readonly [string, string])[]): string[] {
  const names = new Set(given.map(([name]) => name));
  const kept = own.filter((_, i) => !names.has((own[i - (i % 2)] ?? '').toLowerCase()));
  return [...kept, ...given.flat()];
}

function renderJunit({ service, steps }: Trial): string {
  const tried = steps.filter(({ outcome }) => outcome !== 'not tried');
  return renderJunitCases(
    `trial of ${service}`,
    tried.map(({ operation, name, tookMs, differences }) => {
      const [first] = differences;
      const detail = differences.map(({ at, message, rule }) => `${at} ${message} ${rule ?? ''}`.trim()).join('\n');
      const failure = first === undefined ? null : { message: `${first.at} ${first.message}`, detail };
      return { name: `${operation} / ${name}`, tookMs, failure };
    }),
  );
}

async function writeReport(path: string, text: string): Promise<void> {
  await writeFile(path, text).catch((error: Error) => {
    throw new AppError('file-unreadable', `${path} cannot be written: ${error.message}`);
  });
}
