import { Worker } from 'node:worker_threads';
import { AppError, type Draft, type DraftTrafficOptions, type ErrorCode, type Exchange } from '@upsetter/core';

export interface DraftTask {
  readonly exchanges: readonly Exchange[];
  readonly options: DraftTrafficOptions;
}

export type DraftTaskResult =
  | { readonly kind: 'drafted'; readonly draft: Draft }
  | { readonly kind: 'refused'; readonly code: ErrorCode; readonly message: string };

/** Drafts in a thread of its own: while it works, mocks answer and delays stay accurate. */
export function draftInWorker(task: DraftTask): Promise<Draft> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('./draft-worker.js', import.meta.url), { workerData: task });
    worker.once('message', (result: DraftTaskResult) => {
      if (result.kind === 'drafted') resolve(result.draft);
      else reject(new AppError(result.code, result.message));
    });
    worker.once('error', reject);
    worker.once('exit', (code) => reject(new AppError('internal', `the drafting thread ended with code ${code}`)));
  });
}
