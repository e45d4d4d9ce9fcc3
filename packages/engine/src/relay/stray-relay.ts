import type { RelayedCall } from './relayed-call.js';
import type { Upstream } from './upstream.js';

/** Where strays of a mock go. `onHeard`: told of each that was relayed, when they are recorded; null when not. */
export interface StrayRelay {
  readonly upstream: Upstream;
  readonly onHeard: ((call: RelayedCall) => void) | null;
}
