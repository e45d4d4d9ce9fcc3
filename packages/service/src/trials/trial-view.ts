import { listTrialChanges, type TriedStep } from '@upsetter/core';
import type { TrialDetail, TrialSummary } from '@upsetter/core/wire';
import type { StoredTrial } from '@upsetter/store';
import { countSteps } from './count-steps.js';
import type { RunningTrial } from './running-trial.js';

export function viewStoredTrial({ startedAtMs, endedAtMs, ...trial }: StoredTrial): TrialSummary {
  return {
    ...trial,
    planned: null,
    startedAt: new Date(startedAtMs).toISOString(),
    endedAt: new Date(endedAtMs).toISOString(),
  };
}

export function viewRunningTrial({ id, service, task, steps, planned, startedAtMs }: RunningTrial): TrialSummary {
  const { against, environment } = task;
  const startedAt = new Date(startedAtMs).toISOString();
  const counts = countSteps(steps);
  return {
    id,
    service,
    environment,
    against,
    state: 'running',
    trouble: null,
    startedAt,
    endedAt: null,
    counts,
    planned,
    changes: null,
  };
}

/** `before`: the trial before it in its environment; null: there is none. */
export function viewTrialDetail(
  summary: TrialSummary,
  steps: readonly TriedStep[],
  before: { readonly trial: StoredTrial; readonly steps: readonly TriedStep[] } | null,
): TrialDetail {
  const since =
    before === null
      ? null
      : {
          id: before.trial.id,
          startedAt: new Date(before.trial.startedAtMs).toISOString(),
          changes: listTrialChanges(before.steps, steps),
        };
  return { ...summary, steps: [...steps], since };
}
