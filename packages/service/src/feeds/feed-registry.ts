import { AppError, type ServiceText } from '@upsetter/core';
import type { Feed, FeedRun } from '@upsetter/core/wire';
import type { FeedRepository } from '@upsetter/store';
import { parseDocument } from 'yaml';
import type { MockRegistry } from '../mocks/mock-registry.js';
import { viewMerged } from '../mocks/view-merged.js';
import { refuseHost } from '../outgoing/refuse-host.js';
import type { FeedOutcome } from './feed-task.js';
import { runFeedTask } from './run-feed-task.js';

/** The service that follows a feed: the latest version, where they stand side by side. */
function followedBy({ service, sideBySide, runs }: Feed): string {
  const latest = runs.find((run) => run.service !== null)?.service;
  return (sideBySide ? latest : null) ?? service;
}

/** Two versions cannot listen at one port. */
function withFreePort(text: string): string {
  const document = parseDocument(text);
  if (document.hasIn(['listen', 'port'])) document.setIn(['listen', 'port'], 0);
  return document.toString({ lineWidth: 0 });
}

/** So many runs are kept of each feed. */
const KEPT_RUNS = 30;

type NewFeed = Pick<Feed, 'name' | 'service' | 'source' | 'everyMs' | 'sideBySide'>;
type Fetched = Extract<FeedOutcome, { readonly kind: 'fetched' }>;

/** Feeds: contracts that are fetched again and again, by the clock, by hand and by the hook; the services follow them. */
export class FeedRegistry {
  readonly #store: FeedRepository;
  readonly #mocks: MockRegistry;
  readonly #allowedHosts: readonly string[];
  readonly #feeds = new Map<string, Feed>();
  readonly #timers = new Map<string, NodeJS.Timeout>();
  /** One run of a feed at a time; a second one that is asked for meanwhile is the same. */
  readonly #running = new Map<string, Promise<FeedRun>>();
  readonly #onTrouble: (message: string) => void;

  constructor(
    store: FeedRepository,
    mocks: MockRegistry,
    allowedHosts: readonly string[],
    onTrouble: (message: string) => void,
  ) {
    this.#store = store;
    this.#mocks = mocks;
    this.#allowedHosts = allowedHosts;
    this.#onTrouble = onTrouble;
  }

  async loadAll(): Promise<void> {
    for (const feed of await this.#store.list()) {
      this.#feeds.set(feed.name, feed);
      this.#schedule(feed);
    }
  }

  list(): readonly Feed[] {
    return [...this.#feeds.values()].sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  /** Fails with `feed-unknown`. */
  get(name: string): Feed {
    const feed = this.#feeds.get(name);
    if (feed === undefined) throw new AppError('feed-unknown', `there is no feed ${name}`);
    return feed;
  }

  /** A feed of the same name gives way; what it fetched last is forgotten. Fails with `upstream-refused`. */
  async add(feed: NewFeed): Promise<Feed> {
    if (feed.source.kind === 'url') refuseHost(feed.source.url, this.#allowedHosts, 'a feed may not fetch from');
    const made = { ...feed, version: null, checkedAt: null, trouble: null, runs: [] };
    await this.#keep(made);
    this.#schedule(made);
    return made;
  }

  /** Fails with `feed-unknown`. */
  async remove(name: string): Promise<void> {
    this.get(name);
    clearInterval(this.#timers.get(name));
    this.#timers.delete(name);
    this.#feeds.delete(name);
    await this.#store.remove(name);
  }

  /** Fetches now, and saves what is new. Fails with `feed-unknown`. */
  run(name: string): Promise<FeedRun> {
    const feed = this.get(name);
    const running = this.#running.get(name) ?? this.#run(feed).finally(() => this.#running.delete(name));
    this.#running.set(name, running);
    return running;
  }

  async stopAll(): Promise<void> {
    for (const timer of this.#timers.values()) clearInterval(timer);
    await Promise.allSettled(this.#running.values());
  }

  #schedule({ name, everyMs }: Feed): void {
    clearInterval(this.#timers.get(name));
    if (everyMs === null) return;
    const tick = (): void => {
      this.run(name).catch((error: Error) => this.#onTrouble(`the feed ${name} could not run: ${error.message}`));
    };
    this.#timers.set(name, setInterval(tick, everyMs).unref());
  }

  async #run(feed: Feed): Promise<FeedRun> {
    const followed = followedBy(feed);
    const current = this.#findService(followed);
    const outcome = await runFeedTask({
      source: feed.source,
      version: current === null ? null : feed.version,
      allowedHosts: this.#allowedHosts,
      service: feed.service,
      current,
    });
    const run = await this.#conclude(feed, outcome, current === null ? null : followed);
    // It may have been taken away meanwhile.
    if (!this.#feeds.has(feed.name)) return run;
    const runs = run.outcome === 'same' ? feed.runs : [run, ...feed.runs].slice(0, KEPT_RUNS);
    const version = run.outcome === 'failed' ? feed.version : (run.version ?? feed.version);
    await this.#keep({
      ...feed,
      version,
      checkedAt: run.at,
      trouble: run.outcome === 'failed' ? run.message : null,
      runs,
    });
    return run;
  }

  #findService(name: string): ServiceText | null {
    const saved = this.#mocks.list().find((mock) => mock.name === name)?.saved;
    return saved === undefined ? null : { text: saved.file, files: saved.files };
  }

  async #conclude(feed: Feed, outcome: FeedOutcome, before: string | null): Promise<FeedRun> {
    const plain: FeedRun = {
      at: new Date().toISOString(),
      outcome: 'same',
      version: null,
      service: null,
      revision: null,
      message: null,
      changes: [],
      merged: null,
      unusable: [],
    };
    if (outcome.kind === 'same') return plain;
    if (outcome.kind === 'failed') return { ...plain, outcome: 'failed', message: outcome.message };
    try {
      return { ...plain, ...(await this.#save(feed, outcome, before)) };
    } catch (error) {
      const [first] = error instanceof AppError ? (error.details.problems ?? []) : [];
      const message = `${(error as Error).message}${first === undefined ? '' : `: line ${first.line}, ${first.message}`}`;
      return { ...plain, outcome: 'failed', version: outcome.version, message };
    }
  }

  /** `before`: the service that followed until now; null: there is none yet. */
  async #save({ service, name, sideBySide }: Feed, { followed, version, unusable }: Fetched, before: string | null) {
    const { text, files, changes, merged } = followed;
    const beside = sideBySide && before !== null ? this.#versionBeside(before, service, text) : null;
    const key = beside ?? before ?? service;
    const note = `followed by the feed ${name}: ${version}`;
    const basedOn = beside === null && before !== null ? this.#mocks.get(before).saved.revision : null;
    const given = { text: beside === null ? text : withFreePort(text), files };
    const { mock } = await this.#mocks.save(key, given, { note, basedOn });
    return {
      outcome: before === null ? ('created' as const) : ('merged' as const),
      version,
      service: mock.name,
      revision: mock.saved.revision,
      changes: [...changes],
      merged: viewMerged(merged),
      unusable: [...unusable],
    };
  }

  /** The name of a newer version that is to stand beside the one before; null: it is of the same version. */
  #versionBeside(before: string, service: string, text: string): string | null {
    const now = parseDocument(text).get('version');
    const { version } = this.#mocks.get(before).live;
    return now === undefined || String(now) === version ? null : `${service}@${String(now)}`;
  }

  async #keep(feed: Feed): Promise<void> {
    this.#feeds.set(feed.name, feed);
    await this.#store.save(feed);
  }
}
