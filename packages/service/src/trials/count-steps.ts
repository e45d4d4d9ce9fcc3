import type { TriedStep } from '@upsetter/core';
import type { TrialCounts } from '@upsetter/core/wire';

/** What the steps of a trial came to. */
export function countSteps(steps: readonly TriedStep[]): TrialCounts {
  const count = (outcome: TriedStep['outcome']): number => steps.filter((step) => step.outcome === outcome).length;
  return {
    holds: count('holds'),
    accepted: count('accepted'),
    differs: count('differs'),
    notTried: count('not tried'),
  };
}
