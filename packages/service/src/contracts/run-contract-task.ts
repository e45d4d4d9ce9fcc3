import { Worker } from 'node:worker_threads';
import { AppError } from '@upsetter/core';
import type { ContractTask, ContractTaskOutcome, ContractTaskResults } from './contract-task.js';

/** Works on a contract in a thread of its own: large ones take seconds, while mocks answer. */
export function runContractTask<Task extends ContractTask>(task: Task): Promise<ContractTaskResults[Task['kind']]> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('./contract-worker.js', import.meta.url), { workerData: task });
    worker.once('message', (outcome: ContractTaskOutcome) => {
      if (outcome.kind === 'done') resolve(outcome.result as ContractTaskResults[Task['kind']]);
      else reject(new AppError(outcome.code, outcome.message));
    });
    worker.once('error', reject);
    worker.once('exit', (code) => reject(new AppError('internal', `the contract thread ended with code ${code}`)));
  });
}
