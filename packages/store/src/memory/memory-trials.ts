import type { TriedStep } from '@upsetter/core';
import { KEPT_TRIALS, type StoredTrial, type TrialRepository } from '../store.js';

/** Trials that live as long as the process. */
export function createMemoryTrials(): TrialRepository {
  let trials: { readonly trial: StoredTrial; readonly steps: readonly TriedStep[] }[] = [];
  return {
    list: async (service) =>
      trials
        .map(({ trial }) => trial)
        .filter((trial) => trial.service === service)
        .sort((a, b) => b.startedAtMs - a.startedAtMs),
    find: async (id) => trials.find(({ trial }) => trial.id === id) ?? null,
    save: async (trial, steps) => {
      trials.push({ trial, steps });
      const own = trials.filter(
        (kept) => kept.trial.service === trial.service && kept.trial.environment === trial.environment,
      );
      const dropped = new Set(own.slice(0, Math.max(0, own.length - KEPT_TRIALS)));
      trials = trials.filter((kept) => !dropped.has(kept));
    },
  };
}
