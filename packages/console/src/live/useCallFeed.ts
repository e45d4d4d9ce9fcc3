import { useSyncExternalStore } from 'react';
import { client } from '../api/client.js';
import { createCallFeed, type FeedState } from './call-feed.js';

const feed = createCallFeed('/api/calls/stream');
void client.listCalls({ limit: 60 }).then(
  ({ calls }) => feed.prime(calls),
  () => {},
);

/** The latest calls, live. */
export function useCallFeed(): FeedState {
  return useSyncExternalStore(feed.subscribe, feed.read);
}
