import type { BesideFiles, TriedStep } from '@upsetter/core';

/** What the trial thread is asked for. */
export interface TrialTask {
  readonly text: string;
  readonly files: BesideFiles;
  readonly against: string;
  readonly environment: string;
  readonly writes: boolean;
  readonly hostile: boolean;
  readonly headers: Readonly<Record<string, string>>;
  readonly callsPerSecond: number;
}

/** What it tells, step by step. */
export type TrialMessage =
  | { readonly kind: 'planned'; readonly steps: number }
  | { readonly kind: 'step'; readonly step: TriedStep }
  | { readonly kind: 'done' }
  | { readonly kind: 'failed'; readonly message: string };
