import type { CallRecord } from '@upsetter/core';
import type { CallFilter, CallRepository, ServiceRepository, Store, StoredRevision } from '../store.js';

/** The most calls the memory store keeps; the oldest make room. */
const MOST_CALLS = 20_000;

/** A store that lives as long as its process: for `upsetter run` and for tests of what stands above it. */
export function createMemoryStore(): Store {
  return {
    kind: 'memory',
    services: createServices(),
    calls: createCalls(),
    start: async () => {},
    stop: async () => {},
  };
}

function createServices(): ServiceRepository {
  const revisions = new Map<string, StoredRevision[]>();
  return {
    list: async () =>
      [...revisions.values()].flatMap((list) => list.at(-1) ?? []).sort((a, b) => (a.service < b.service ? -1 : 1)),
    history: async (service) => [...(revisions.get(service) ?? [])].reverse(),
    find: async (service, revision) => revisions.get(service)?.find((item) => item.revision === revision) ?? null,
    save: async (revision) => {
      revisions.set(revision.service, [...(revisions.get(revision.service) ?? []), revision]);
    },
    remove: async (service) => {
      revisions.delete(service);
    },
  };
}

function createCalls(): CallRepository {
  const calls = new Map<string, CallRecord>();
  const keep = (record: CallRecord): void => {
    calls.set(record.request.id, record);
    if (calls.size > MOST_CALLS) calls.delete(calls.keys().next().value ?? '');
  };
  return {
    write: async (records) => records.forEach(keep),
    writeAgain: async (record) => keep(record),
    list: async (filter) =>
      [...calls.values()]
        .filter((record) => isWanted(record, filter))
        .sort(newestFirst)
        .slice(0, filter.limit),
    find: async (id) => calls.get(id) ?? null,
  };
}

function newestFirst(a: CallRecord, b: CallRecord): number {
  return a.request.id < b.request.id ? 1 : -1;
}

/** Whether a call is one of those a filter asks for. */
export function isWanted(record: CallRecord, filter: CallFilter): boolean {
  if (filter.service !== null && record.service !== filter.service) return false;
  if (filter.operation !== null && record.operation !== filter.operation) return false;
  if (filter.lane !== null && record.request.lane !== filter.lane) return false;
  if (filter.straysOnly && !record.isStray) return false;
  return filter.before === null || record.request.id < filter.before;
}
