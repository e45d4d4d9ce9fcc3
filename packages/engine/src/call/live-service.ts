import type { CompiledService, CompiledUpset, Lanes } from '@upsetter/core';
import type { StrayRelay } from '../relay/stray-relay.js';
import type { Upstream } from '../relay/upstream.js';

/** What a mock answers with at one moment. Immutable but for its lanes: a save makes a new one, a call keeps the one it began with. */
export interface LiveService {
  readonly compiled: CompiledService;
  readonly version: string | null;
  readonly revision: number;
  /** Kept over saves: counters of names that remain go on. */
  readonly lanes: Lanes;
  /** The upsets in force, in order; null when everything is calm. */
  readonly upsets: readonly CompiledUpset[] | null;
  /** Where strays go; null: they are answered. */
  readonly strays: StrayRelay | null;
  /** The real service, for answers that are relayed; null: there is none. */
  readonly upstream: Upstream | null;
}
