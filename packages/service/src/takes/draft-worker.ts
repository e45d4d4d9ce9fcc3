import { parentPort, workerData } from 'node:worker_threads';
import { AppError, draftTraffic } from '@upsetter/core';
import { standBack } from '../workers/stand-back.js';
import type { DraftTask, DraftTaskResult } from './draft-in-worker.js';

// The thread of one draft: it ends with it.
standBack();
const { exchanges, options } = workerData as DraftTask;

function run(): DraftTaskResult {
  try {
    return { kind: 'drafted', draft: draftTraffic(exchanges, options) };
  } catch (error) {
    if (error instanceof AppError) return { kind: 'refused', code: error.code, message: error.message };
    return { kind: 'refused', code: 'internal', message: String((error as Error).stack ?? error) };
  }
}

parentPort?.postMessage(run());
