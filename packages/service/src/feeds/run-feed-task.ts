import { KeptThreads } from '../workers/kept-threads.js';
import type { FeedOutcome, FeedTask } from './feed-task.js';

const threads = new KeptThreads<FeedTask, FeedOutcome>(new URL('./feed-worker.js', import.meta.url));

/** Fetches, compares, drafts and merges in a thread: mocks answer meanwhile. */
export function runFeedTask(task: FeedTask): Promise<FeedOutcome> {
  return threads.run(task).catch((error: Error): FeedOutcome => ({ kind: 'failed', message: error.message }));
}
