import {
  compileHostChoice,
  createUpstream,
  createUpstreamPool,
  type MockListener,
  openProxy,
  openRelay,
} from '@upsetter/engine';
import type { AuthorityKeeper } from '../authority/authority-keeper.js';
import type { OpenTake } from './take.js';

/** How a take is heard. `authority`: PEM certificates to trust beside the system's, of https services; null: none. */
export type Hearing =
  | { readonly kind: 'relay'; readonly from: string; readonly rewrites: boolean; readonly authority: string | null }
  /** `hosts`: patterns of whom to hear; none: everyone. */
  | { readonly kind: 'proxy'; readonly hosts: readonly string[]; readonly authority: string | null };

const KEPT_BODY_BYTES = 4 * 1024 * 1024;
const UPSTREAM_TIMEOUT_MS = 120_000;

/** Opens the listener of a take. Fails with `port-in-use` or `authority-unusable`. */
export async function openTakeListener(
  host: string,
  port: number,
  hearing: Hearing,
  take: OpenTake,
  keeper: AuthorityKeeper,
): Promise<MockListener> {
  const upstreams = { authority: hearing.authority, timeoutMs: UPSTREAM_TIMEOUT_MS };
  const options = {
    keptBodyBytes: KEPT_BODY_BYTES,
    nextOrder: () => take.nextOrder(),
    onHeard: (call: Parameters<typeof take.hear>[0]) => take.hear(call),
  };
  if (hearing.kind === 'relay') {
    const upstream = createUpstream({ ...upstreams, url: hearing.from });
    return openRelay(host, port, { ...options, upstream, rewrites: hearing.rewrites });
  }
  return openProxy(host, port, {
    ...options,
    authority: await keeper.open(),
    upstreams: createUpstreamPool(upstreams),
    tallies: take.tallies,
    isHeard: compileHostChoice(hearing.hosts),
  });
}
