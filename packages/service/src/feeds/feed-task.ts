import type { FollowedContract, ServiceText } from '@upsetter/core';
import type { FeedSource } from '@upsetter/engine/outgoing';

/** What the feed thread is asked for. */
export interface FeedTask {
  readonly source: FeedSource;
  /** The version that is known; null: none. */
  readonly version: string | null;
  readonly allowedHosts: readonly string[];
  readonly service: string;
  /** The service that follows, as it is saved; null: there is none yet. */
  readonly current: ServiceText | null;
}

export type FeedOutcome =
  | { readonly kind: 'same' }
  | {
      readonly kind: 'fetched';
      readonly version: string;
      readonly followed: FollowedContract;
      readonly unusable: readonly { readonly at: string; readonly reason: string }[];
    }
  | { readonly kind: 'failed'; readonly message: string };
