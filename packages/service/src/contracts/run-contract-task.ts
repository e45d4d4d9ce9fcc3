import { AppError } from '@upsetter/core';
import { KeptThreads } from '../workers/kept-threads.js';
import type { ContractTask, ContractTaskOutcome, ContractTaskResults } from './contract-task.js';

const threads = new KeptThreads<ContractTask, ContractTaskOutcome>(new URL('./contract-worker.js', import.meta.url));

/** Works on a contract in a thread: large ones take seconds, while mocks answer. Ends, without a result, where `signal` says so. */
export async function runContractTask<Task extends ContractTask>(
  task: Task,
  signal?: AbortSignal,
): Promise<ContractTaskResults[Task['kind']]> {
  const outcome = await threads.run(task, signal).catch((error: Error) => {
    throw new AppError('internal', `work on the contract ended early: ${error.message}`, {}, error);
  });
  if (outcome.kind === 'done') return outcome.result as ContractTaskResults[Task['kind']];
  throw new AppError(outcome.code, outcome.message);
}
