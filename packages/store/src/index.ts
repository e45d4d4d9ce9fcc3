export type { CallWriter, CallWriterState } from './calls/call-writer.js';
export { createCallWriter } from './calls/call-writer.js';
export { isWanted } from './calls/is-wanted.js';
export { createMemoryStore } from './memory/memory-store.js';
export { createPostgresStore } from './postgres/postgres-store.js';
export type {
  CallFilter,
  CallRepository,
  FeedRepository,
  ServiceRepository,
  Store,
  StoredRevision,
  StoredTake,
  StoredTrial,
  TakeRepository,
  TrialRepository,
} from './store.js';
