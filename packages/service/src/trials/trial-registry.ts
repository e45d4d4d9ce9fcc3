import { randomUUID } from 'node:crypto';
import { AppError, listTrialChanges, type TrialChange, type TriedStep } from '@upsetter/core';
import type { TrialDetail, TrialSummary } from '@upsetter/core/wire';
import type { StoredTrial, TrialRepository } from '@upsetter/store';
import type { Mock } from '../mocks/mock.js';
import { refuseHost } from '../outgoing/refuse-host.js';
import { countSteps } from './count-steps.js';
import { RunningTrial } from './running-trial.js';
import type { TrialTask } from './trial-task.js';
import { viewRunningTrial, viewStoredTrial, viewTrialDetail } from './trial-view.js';

const MOST_RUNNING = 4;

/** What is kept of a trial that was run elsewhere. */
export interface KeptTrial {
  readonly against: string;
  readonly environment: string;
  readonly startedAt: string;
  readonly steps: readonly TriedStep[];
}

/** Trials: those on their way, and those that are kept. */
export class TrialRegistry {
  readonly #trials: TrialRepository;
  readonly #allowedHosts: readonly string[];
  readonly #onTrouble: (message: string) => void;
  readonly #running = new Map<string, RunningTrial>();
  /** Ends when what became of it is kept. */
  readonly #kept = new WeakMap<RunningTrial, Promise<void>>();

  constructor(trials: TrialRepository, allowedHosts: readonly string[], onTrouble: (message: string) => void) {
    this.#trials = trials;
    this.#allowedHosts = allowedHosts;
    this.#onTrouble = onTrouble;
  }

  /** Tries a service as it is saved now. Fails with `upstream-refused` or `too-many`. */
  start(mock: Mock, options: Omit<TrialTask, 'text' | 'files'>): TrialSummary {
    refuseHost(options.against, this.#allowedHosts, 'a trial may not call');
    if (this.#running.size >= MOST_RUNNING)
      throw new AppError('wrong-use', `${MOST_RUNNING} trials run already: wait for one of them, or stop it`);
    const { file: text, files } = mock.saved;
    const trial = new RunningTrial(randomUUID(), mock.name, { ...options, text, files }, Date.now());
    this.#running.set(trial.id, trial);
    const kept = trial.ended
      .then((stored) => this.#save(stored, trial.steps))
      .catch((error: Error) => this.#onTrouble(`a trial of ${mock.name} could not be kept: ${error.message}`))
      .finally(() => this.#running.delete(trial.id));
    this.#kept.set(
      trial,
      kept.then(() => {}),
    );
    return viewRunningTrial(trial);
  }

  /** Keeps a trial that was run elsewhere. */
  async keep(service: string, { against, environment, startedAt, steps }: KeptTrial): Promise<TrialSummary> {
    const stored: StoredTrial = {
      id: randomUUID(),
      service,
      environment,
      against,
      state: 'done',
      trouble: null,
      startedAtMs: Date.parse(startedAt),
      endedAtMs: Date.now(),
      counts: countSteps(steps),
      changes: null,
    };
    return viewStoredTrial(await this.#save(stored, steps));
  }

  /** Newest first. */
  async list(service: string): Promise<TrialSummary[]> {
    const running = [...this.#running.values()].filter((trial) => trial.service === service).map(viewRunningTrial);
    const stored = await this.#trials.list(service);
    return [...running.reverse(), ...stored.filter(({ id }) => !this.#running.has(id)).map(viewStoredTrial)];
  }

  /** Fails with `trial-unknown`. */
  async find(id: string): Promise<TrialDetail> {
    const running = this.#running.get(id);
    const stored = running === undefined ? await this.#trials.find(id) : null;
    if (running === undefined && stored === null) throw new AppError('trial-unknown', `there is no trial ${id}`);
    const summary =
      running === undefined ? viewStoredTrial((stored as { trial: StoredTrial }).trial) : viewRunningTrial(running);
    const steps = running?.steps ?? stored?.steps ?? [];
    return viewTrialDetail(summary, steps, running === undefined ? await this.#before(summary) : null);
  }

  /** The step of a case, as it was tried last. Fails with `trial-unknown`. */
  async findStep(id: string, operation: string, caseName: string): Promise<TriedStep> {
    const { steps } = await this.find(id);
    const step = steps.find((own) => own.kind === 'case' && own.operation === operation && own.name === caseName);
    if (step === undefined) throw new AppError('trial-unknown', `the trial has no case ${operation} / ${caseName}`);
    return step;
  }

  /** Fails with `trial-unknown`. What was tried until now is kept. */
  async stop(id: string): Promise<void> {
    const running = this.#running.get(id);
    if (running === undefined) throw new AppError('trial-unknown', `there is no trial ${id} on its way`);
    await this.#stop(running);
  }

  async stopAll(): Promise<void> {
    await Promise.all([...this.#running.values()].map((trial) => this.#stop(trial)));
  }

  async #stop(trial: RunningTrial): Promise<void> {
    await trial.stop();
    await this.#kept.get(trial);
  }

  async #save(trial: StoredTrial, steps: readonly TriedStep[]): Promise<StoredTrial> {
    const before = await this.#before(viewStoredTrial(trial));
    const found = before === null ? [] : listTrialChanges(before.steps, steps);
    const count = (what: TrialChange['what']): number => found.filter((change) => change.what === what).length;
    const changes =
      before === null ? null : { began: count('began'), changed: count('changed'), ended: count('ended') };
    const saved = { ...trial, changes };
    await this.#trials.save(saved, steps);
    return saved;
  }

  async #before({ service, environment, id, startedAt }: TrialSummary) {
    const earlier = (await this.#trials.list(service)).find(
      (own) => own.environment === environment && own.id !== id && own.startedAtMs < Date.parse(startedAt),
    );
    return earlier === undefined ? null : this.#trials.find(earlier.id);
  }
}
