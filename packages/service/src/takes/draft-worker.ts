import { readlinkSync } from 'node:fs';
import { constants, setPriority } from 'node:os';
import { parentPort, workerData } from 'node:worker_threads';
import { AppError, draftTraffic } from '@upsetter/core';
import type { DraftTask, DraftTaskResult } from './draft-in-worker.js';

// The thread of one draft: it ends with it.
standBack();
const { exchanges, options } = workerData as DraftTask;

/** On Linux a thread has a priority of its own: mocks and delays go before drafts. */
function standBack(): void {
  try {
    const thread = Number(readlinkSync('/proc/thread-self').split('/').at(-1));
    setPriority(thread, constants.priority.PRIORITY_BELOW_NORMAL);
  } catch {
    // elsewhere the draft takes its share like any thread
  }
}

function run(): DraftTaskResult {
  try {
    return { kind: 'drafted', draft: draftTraffic(exchanges, options) };
  } catch (error) {
    if (error instanceof AppError) return { kind: 'refused', code: error.code, message: error.message };
    return { kind: 'refused', code: 'internal', message: String((error as Error).stack ?? error) };
  }
}

parentPort?.postMessage(run());
