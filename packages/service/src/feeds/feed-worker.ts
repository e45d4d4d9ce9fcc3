import { parentPort } from 'node:worker_threads';
import { AppError, adoptContract, followContract } from '@upsetter/core';
import { fetchFeed } from '@upsetter/engine/outgoing';
import { standBack } from '../workers/stand-back.js';
import type { FeedOutcome, FeedTask } from './feed-task.js';

standBack();

async function run({ source, version, allowedHosts, service, current }: FeedTask): Promise<FeedOutcome> {
  try {
    const fetched = await fetchFeed(source, version, allowedHosts);
    if (fetched.kind === 'same') return fetched;
    const followed =
      current === null ? adoptContract(service, fetched.contract) : followContract(current, fetched.contract);
    const unusable = [...fetched.unread, ...followed.unusable];
    return { kind: 'fetched', version: fetched.version, followed, unusable };
  } catch (error) {
    return { kind: 'failed', message: describe(error) };
  }
}

function describe(error: unknown): string {
  if (!(error instanceof AppError)) return String((error as Error).stack ?? error);
  const [first] = error.details.problems ?? [];
  return first === undefined ? error.message : `${error.message}: line ${first.line}, ${first.message}`;
}

parentPort?.on('message', async (task: FeedTask) => parentPort?.postMessage(await run(task)));
