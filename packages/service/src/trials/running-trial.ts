import { Worker } from 'node:worker_threads';
import type { TriedStep } from '@upsetter/core';
import type { StoredTrial } from '@upsetter/store';
import { countSteps } from './count-steps.js';
import type { TrialMessage, TrialTask } from './trial-task.js';

/** A trial on its way, in a thread of its own. */
export class RunningTrial {
  readonly id: string;
  readonly service: string;
  readonly startedAtMs: number;
  readonly task: TrialTask;
  readonly steps: TriedStep[] = [];
  /** How many steps there will be; null until that is known. */
  planned: number | null = null;
  readonly ended: Promise<StoredTrial>;
  readonly #worker: Worker;
  #isStopped = false;

  constructor(id: string, service: string, task: TrialTask, startedAtMs: number) {
    this.id = id;
    this.service = service;
    this.task = task;
    this.startedAtMs = startedAtMs;
    this.#worker = new Worker(new URL('./trial-worker.js', import.meta.url), { workerData: task });
    this.ended = this.#follow();
  }

  /** What was tried until now stays. */
  async stop(): Promise<void> {
    this.#isStopped = true;
    await this.#worker.terminate();
    await this.ended;
  }

  #follow(): Promise<StoredTrial> {
    return new Promise((resolve) => {
      const end = (state: StoredTrial['state'], trouble: string | null): void =>
        resolve({
          ...this.#head(),
          state,
          trouble,
          endedAtMs: Date.now(),
          counts: countSteps(this.steps),
          changes: null,
        });
      this.#worker.on('message', (message: TrialMessage) => {
        if (message.kind === 'planned') this.planned = message.steps;
        else if (message.kind === 'step') this.steps.push(message.step);
        else if (message.kind === 'done') end('done', null);
        else end('failed', message.message);
      });
      this.#worker.on('error', (error) => end('failed', error.message));
      this.#worker.on('exit', () =>
        end(this.#isStopped ? 'stopped' : 'failed', this.#isStopped ? null : 'it ended early'),
      );
    });
  }

  #head() {
    const { against, environment } = this.task;
    return { id: this.id, service: this.service, environment, against, startedAtMs: this.startedAtMs };
  }
}
