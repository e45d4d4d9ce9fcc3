import { parentPort, workerData } from 'node:worker_threads';
import { listBeside, listReadDocuments, loadService } from '@upsetter/core';
import { standBack } from '../../workers/stand-back.js';
import type { LoadOutcome, LoadTask } from './load-task.js';
import { pickFiles } from './pick-files.js';

// The thread of one service: it ends with it.
standBack();

function run({ text, files }: LoadTask): LoadOutcome {
  const names = listBeside(text, files);
  const loaded = loadService(text, pickFiles(names, files));
  if (loaded.kind === 'refused') return loaded;
  return { kind: 'loaded', definition: loaded.service.definition, names, documents: listReadDocuments() };
}

parentPort?.postMessage(run(workerData as LoadTask));
