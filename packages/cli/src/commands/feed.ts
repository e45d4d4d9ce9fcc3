import { resolve } from 'node:path';
import { AppError, parseDuration } from '@upsetter/core/light';
import type { Feed, FeedStart } from '@upsetter/core/wire';
import { EXIT } from '../exit.js';
import { renderFeedRun, renderFeeds } from '../output/render-feed.js';
import { paint, print, printJson } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';

export interface FeedOptions extends CommonOptions {
  readonly service?: string;
  readonly every?: string;
  readonly git?: string;
  readonly branch?: string;
  readonly sideBySide?: boolean;
}

/** A contract that a service is to follow: a file, a URL, or a file of a git repository. It is fetched at once. */
export async function addFeed(name: string, source: string, options: FeedOptions): Promise<number> {
  const client = connect(options);
  const start: FeedStart = {
    name,
    service: options.service ?? name,
    source: readSource(source, options),
    everyMs: options.every === undefined ? null : readEvery(options.every),
    sideBySide: options.sideBySide === true,
  };
  await client.addFeed(start);
  return runFeed(name, options);
}

function readSource(source: string, { git, branch }: FeedOptions): FeedStart['source'] {
  if (git !== undefined)
    return {
      kind: 'git',
      repository: /^[./~]/.test(git) ? resolve(git) : git,
      branch: branch ?? null,
      path: source,
    };
  if (branch !== undefined) throw new AppError('wrong-use', '--branch goes with --git REPOSITORY');
  return /^https?:\/\//i.test(source) ? { kind: 'url', url: source } : { kind: 'file', path: resolve(source) };
}

function readEvery(text: string): number {
  const everyMs = parseDuration(text);
  if (everyMs === null || everyMs < 1000)
    throw new AppError('wrong-use', `--every is a duration from 1s, such as 5m, not ${text}`);
  return everyMs;
}

export async function listFeeds(options: CommonOptions): Promise<number> {
  const feeds: Feed[] = await connect(options).listFeeds();
  if (options.json === true) printJson(feeds);
  else print(renderFeeds(feeds));
  return EXIT.done;
}

/** Fetches now. Exit code 1 where the fetch failed. */
export async function runFeed(name: string, options: CommonOptions): Promise<number> {
  const run = await connect(options).runFeed(name);
  if (options.json === true) printJson(run);
  else print(renderFeedRun(name, run));
  return run.outcome === 'failed' ? EXIT.notHeld : EXIT.done;
}

export async function removeFeed(name: string, options: CommonOptions): Promise<number> {
  await connect(options).removeFeed(name);
  if (options.json === true) printJson({ removed: name });
  else print(`${paint.good('removed')}  ${name}; its service stays as it is`);
  return EXIT.done;
}
