import { parentPort } from 'node:worker_threads';
import { AppError, completeService, reportContract, requireService } from '@upsetter/core';
import { standBack } from '../workers/stand-back.js';
import type { ContractTask, ContractTaskOutcome } from './contract-task.js';

standBack();

function run(task: ContractTask): ContractTaskOutcome {
  try {
    if (task.kind === 'report') return { kind: 'done', result: reportContract(task.text, task.files) };
    const { contract } = requireService(task.text, task.files);
    if (contract === null) throw new AppError('contract-unknown', 'the service names no contract');
    return { kind: 'done', result: completeService(task, contract.index, task.wanted) };
  } catch (error) {
    if (error instanceof AppError) return { kind: 'refused', code: error.code, message: error.message };
    return { kind: 'refused', code: 'internal', message: String((error as Error).stack ?? error) };
  }
}

parentPort?.on('message', (task: ContractTask) => parentPort?.postMessage(run(task)));
