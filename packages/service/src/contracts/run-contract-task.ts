import { Worker } from 'node:worker_threads';
import { AppError } from '@upsetter/core';
import type { ContractTask, ContractTaskOutcome, ContractTaskResults } from './contract-task.js';

/** Works on a contract in a thread of its own: large ones take seconds, while mocks answer. Ends, without a result, where `signal` says so. */
export function runContractTask<Task extends ContractTask>(
  task: Task,
  signal?: AbortSignal,
): Promise<ContractTaskResults[Task['kind']]> {
  return new Promise((resolve, reject) => {
    if (signal?.aborted === true) {
      reject(new AppError('internal', 'the service ends'));
      return;
    }
    const worker = new Worker(new URL('./contract-worker.js', import.meta.url), { workerData: task });
    const end = (): void => void worker.terminate();
    signal?.addEventListener('abort', end, { once: true });
    worker.once('exit', () => signal?.removeEventListener('abort', end));
    worker.once('message', (outcome: ContractTaskOutcome) => {
      if (outcome.kind === 'done') resolve(outcome.result as ContractTaskResults[Task['kind']]);
      else reject(new AppError(outcome.code, outcome.message));
    });
    worker.once('error', reject);
    worker.once('exit', (code) => reject(new AppError('internal', `the contract thread ended with code ${code}`)));
  });
}
