import { setImmediate as nextTurn } from 'node:timers/promises';
import { Worker } from 'node:worker_threads';
import {
  AppError,
  type BesideFiles,
  type CompiledService,
  compileInSteps,
  knowDocuments,
  listBeside,
  loadInSteps,
  refuseFile,
} from '@upsetter/core';
import type { LoadOutcome, LoadTask } from './load-task.js';
import { pickFiles } from './pick-files.js';

/** A service with the files that it refers to; others that were given are left out. */
export interface LoadedGiven {
  readonly service: CompiledService;
  readonly files: BesideFiles;
}

/** Reading so many characters takes as long as a thread does to begin. */
const LARGE = 100_000;
/** Calls wait no longer than this while a service is compiled. */
const MOST_AT_ONCE_MS = 5;

/** Large services are read in a thread and compiled in steps: mocks answer meanwhile. Fails with `file-refused`. */
export async function loadGiven(text: string, files: BesideFiles): Promise<LoadedGiven> {
  const size = Object.values(files).reduce((sum, { content }) => sum + content.length, text.length);
  if (size < LARGE) {
    const own = pickFiles(listBeside(text, files), files);
    const loaded = await inTurns(loadInSteps(text, own));
    if (loaded.kind === 'refused') throw refuseFile('the file', loaded.problems);
    return { service: loaded.service, files: own };
  }
  const outcome = await runLoadTask({ text, files });
  if (outcome.kind === 'refused') throw refuseFile('the file', outcome.problems);
  const own = pickFiles(outcome.names, files);
  knowDocuments(outcome.documents);
  return { service: await compileInTurns(outcome, own), files: own };
}

type Loaded = Extract<LoadOutcome, { kind: 'loaded' }>;

async function compileInTurns({ definition }: Loaded, files: BesideFiles): Promise<CompiledService> {
  const compiled = await inTurns(compileInSteps(definition, files));
  if (compiled.kind === 'compiled') return compiled.service;
  throw new AppError('internal', `what the thread found right is not: ${compiled.problems[0]?.message}`);
}

/** Work in small steps, with calls answered in between. */
async function inTurns<T>(steps: Generator<undefined, T, undefined>): Promise<T> {
  let startedMs = performance.now();
  for (let step = steps.next(); ; step = steps.next()) {
    if (step.done === true) return step.value;
    if (performance.now() - startedMs < MOST_AT_ONCE_MS) continue;
    await nextTurn();
    startedMs = performance.now();
  }
}

function runLoadTask(task: LoadTask): Promise<LoadOutcome> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('./load-worker.js', import.meta.url), { workerData: task });
    worker.once('message', resolve);
    worker.once('error', reject);
    worker.once('exit', (code) => reject(new AppError('internal', `the loading thread ended with code ${code}`)));
  });
}
