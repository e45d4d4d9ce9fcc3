import { parentPort, workerData } from 'node:worker_threads';
import { requireService, runTrial } from '@upsetter/core';
import { createTrialSender } from '@upsetter/engine/outgoing';
import { standBack } from '../workers/stand-back.js';
import type { TrialMessage, TrialTask } from './trial-task.js';

// The thread of one trial: it ends with it.
standBack();

const { text, files, against, headers, callsPerSecond, ...options } = workerData as TrialTask;
const tell = (message: TrialMessage): void => parentPort?.postMessage(message);

try {
  const given = Object.entries(headers).map(([name, value]) => [name.toLowerCase(), value] as const);
  const send = createTrialSender({ against: new URL(against), headers: given, callsPerSecond });
  const onPlanned = (steps: number): void => tell({ kind: 'planned', steps });
  for await (const step of runTrial(requireService(text, files), { ...options, onPlanned }, send))
    tell({ kind: 'step', step });
  tell({ kind: 'done' });
} catch (error) {
  tell({ kind: 'failed', message: (error as Error).message });
}
