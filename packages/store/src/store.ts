import type { BesideFiles, CallRecord, Exchange, TriedStep } from '@upsetter/core';
import type { Feed } from '@upsetter/core/wire';

/** One saved state of a service: its file as it was sent. */
export interface StoredRevision {
  readonly service: string;
  /** From 1, by one for each save that changed something. */
  readonly revision: number;
  /** Empty: with this revision the service was removed. Older ones stay, so that its calls can still be explained. */
  readonly file: string;
  /** The files beside it, by name. */
  readonly files: BesideFiles;
  readonly note: string | null;
  readonly savedAtMs: number;
}

export interface ServiceRepository {
  /** The latest revision of each service that is not removed, by name. */
  readonly list: () => Promise<readonly StoredRevision[]>;
  /** All revisions of one service, newest first. */
  readonly history: (service: string) => Promise<readonly StoredRevision[]>;
  readonly find: (service: string, revision: number) => Promise<StoredRevision | null>;
  readonly save: (revision: StoredRevision) => Promise<void>;
  /** Ports that services got whose files name none, by service. */
  readonly ports: () => Promise<ReadonlyMap<string, number>>;
  /** Null: the service has none any more. */
  readonly keepPort: (service: string, port: number | null) => Promise<void>;
}

/** Which calls are wanted, newest first. */
export interface CallFilter {
  readonly service: string | null;
  readonly operation: string | null;
  readonly lane: string | null;
  readonly straysOnly: boolean;
  /** Only calls that differ from their contract. */
  readonly findingsOnly: boolean;
  /** Only calls before this id. */
  readonly before: string | null;
  readonly limit: number;
}

export interface CallRepository {
  /** Calls that were never written before. All of them or none. */
  readonly write: (records: readonly CallRecord[]) => Promise<void>;
  /** A call that is written while it is in flight, or whose end follows: the row is made or replaced. */
  readonly writeAgain: (record: CallRecord) => Promise<void>;
  readonly list: (filter: CallFilter) => Promise<readonly CallRecord[]>;
  readonly find: (id: string) => Promise<CallRecord | null>;
  /** The latest calls, two at most, whose id begins or ends with a fragment. */
  readonly findAlike: (fragment: string) => Promise<readonly CallRecord[]>;
}

/** One recording session; its exchanges are kept beside it. */
export interface StoredTake {
  readonly name: string;
  /** `relay`: a port of its own; `service`: the strays of a mock, relayed; `proxy`: a forward proxy. */
  readonly source: 'relay' | 'service' | 'proxy';
  /** The real service that was heard; null at a proxy. */
  readonly upstream: string | null;
  readonly state: 'open' | 'closed';
  readonly startedAtMs: number;
  readonly endedAtMs: number | null;
  readonly trouble: string | null;
  /** Where secrets were masked, and how often. */
  readonly masked: readonly { readonly place: string; readonly count: number }[];
  /** What became of each host's calls at a proxy. */
  readonly hosts: readonly HeardHost[];
}

export interface HeardHost {
  readonly host: string;
  readonly heard: number;
  readonly untouched: number;
  readonly refused: number;
  readonly trouble: string | null;
}

export interface TakeRepository {
  /** All takes, newest first. */
  readonly list: () => Promise<readonly StoredTake[]>;
  readonly save: (take: StoredTake) => Promise<void>;
  /** With its exchanges. */
  readonly remove: (name: string) => Promise<void>;
  /** Exchanges, masked; one of an index that is there already takes its place. */
  readonly write: (take: string, exchanges: readonly Exchange[]) => Promise<void>;
  /** In order, those after an index (-1: from the first). */
  readonly exchanges: (take: string, after: number, limit: number) => Promise<readonly Exchange[]>;
  /** How many exchanges each take has. */
  readonly counts: () => Promise<ReadonlyMap<string, number>>;
}

/** A trial that ended: what was tried, where, and what came of it. */
export interface StoredTrial {
  readonly id: string;
  readonly service: string;
  readonly environment: string;
  readonly against: string;
  readonly state: 'done' | 'stopped' | 'failed';
  readonly trouble: string | null;
  readonly startedAtMs: number;
  readonly endedAtMs: number;
  readonly counts: {
    readonly holds: number;
    readonly accepted: number;
    readonly differs: number;
    readonly notTried: number;
  };
  /** What changed since the one before in the same environment; null: it was the first. */
  readonly changes: { readonly began: number; readonly changed: number; readonly ended: number } | null;
}

/** So many are kept of one service in one environment; older ones go. */
export const KEPT_TRIALS = 50;

export interface TrialRepository {
  /** Newest first. */
  readonly list: (service: string) => Promise<readonly StoredTrial[]>;
  readonly find: (id: string) => Promise<{ readonly trial: StoredTrial; readonly steps: readonly TriedStep[] } | null>;
  readonly save: (trial: StoredTrial, steps: readonly TriedStep[]) => Promise<void>;
}

export interface FeedRepository {
  /** By name. */
  readonly list: () => Promise<readonly Feed[]>;
  readonly save: (feed: Feed) => Promise<void>;
  readonly remove: (name: string) => Promise<void>;
}

/** Where services, takes and calls are kept. One interface, two homes: PostgreSQL, and memory. */
export interface Store {
  readonly kind: 'postgres' | 'memory';
  readonly services: ServiceRepository;
  readonly takes: TakeRepository;
  readonly trials: TrialRepository;
  readonly feeds: FeedRepository;
  /** Null where no call is kept longer than the process keeps it in its own memory. */
  readonly calls: CallRepository | null;
  /** Ready to use: connected, migrated. Fails with `store-unavailable` or `store-in-use`. */
  readonly start: () => Promise<void>;
  readonly stop: () => Promise<void>;
}
