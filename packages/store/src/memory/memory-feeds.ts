import type { Feed } from '@upsetter/core/wire';
import type { FeedRepository } from '../store.js';

/** Feeds that live as long as the process. */
export function createMemoryFeeds(): FeedRepository {
  const feeds = new Map<string, Feed>();
  return {
    list: async () => [...feeds.values()].sort((a, b) => (a.name < b.name ? -1 : 1)),
    save: async (feed) => {
      feeds.set(feed.name, feed);
    },
    remove: async (name) => {
      feeds.delete(name);
    },
  };
}
