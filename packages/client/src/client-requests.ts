import type { CallSummary } from '@upsetter/core/wire';

export interface CallsWanted {
  readonly service?: string | undefined;
  readonly operation?: string | undefined;
  readonly lane?: string | undefined;
  readonly strays?: boolean | undefined;
  /** Only calls that differ from the contract. */
  readonly findings?: boolean | undefined;
  readonly before?: string | undefined;
  readonly limit?: number | undefined;
}

/** Calls as they are received and completed; `missed` counts what came too fast to be told. */
export interface CallBatch {
  readonly calls: readonly CallSummary[];
  readonly missed: number;
}

export interface LaneClockChange {
  readonly freeze?: true | string;
  readonly advance?: string;
  readonly release?: boolean;
}
