import { Worker } from 'node:worker_threads';
import type { FeedOutcome, FeedTask } from './feed-task.js';

/** Fetches, compares, drafts and merges in a thread of its own: mocks answer meanwhile. */
export function runFeedTask(task: FeedTask): Promise<FeedOutcome> {
  return new Promise((resolve) => {
    const worker = new Worker(new URL('./feed-worker.js', import.meta.url), { workerData: task });
    worker.once('message', resolve);
    worker.once('error', (error) => resolve({ kind: 'failed', message: error.message }));
    worker.once('exit', (code) => resolve({ kind: 'failed', message: `the feed thread ended with code ${code}` }));
  });
}
