import type { ServiceRepository, Store, StoredRevision } from '../store.js';
import { createMemoryFeeds } from './memory-feeds.js';
import { createMemoryTakes } from './memory-takes.js';
import { createMemoryTrials } from './memory-trials.js';

/** A store that lives as long as its process, for `upsetter run`. Calls are kept by the service's own memory alone. */
export function createMemoryStore(): Store {
  return {
    kind: 'memory',
    services: createServices(),
    takes: createMemoryTakes(),
    trials: createMemoryTrials(),
    feeds: createMemoryFeeds(),
    calls: null,
    start: async () => {},
    stop: async () => {},
  };
}

function createServices(): ServiceRepository {
  const revisions = new Map<string, StoredRevision[]>();
  const ports = new Map<string, number>();
  return {
    list: async () =>
      [...revisions.values()]
        .flatMap((list) => list.at(-1) ?? [])
        .filter((latest) => latest.file !== '')
        .sort((a, b) => (a.service < b.service ? -1 : 1)),
    history: async (service) => [...(revisions.get(service) ?? [])].reverse(),
    find: async (service, revision) => revisions.get(service)?.find((item) => item.revision === revision) ?? null,
    save: async (revision) => {
      revisions.set(revision.service, [...(revisions.get(revision.service) ?? []), revision]);
    },
    ports: async () => ports,
    keepPort: async (service, port) => {
      if (port === null) ports.delete(service);
      else ports.set(service, port);
    },
  };
}
