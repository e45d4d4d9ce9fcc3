import type { CaseClass } from './classes.js';
import type { Condition } from './tell-apart.js';

/** A case that is told by the call (and its row) alone. */
export interface DecidedCase {
  readonly kind: 'decided';
  readonly conditions: readonly Condition[];
  readonly answer: CaseClass;
}

/** Classes that nothing in the call tells apart: state, time or turns do. */
export interface MixedCases {
  readonly kind: 'mixed';
  readonly conditions: readonly Condition[];
  readonly answers: readonly CaseClass[];
}

export type PlannedCase = DecidedCase | MixedCases;

export interface PlanOptions {
  /** Places whose values another session would not repeat: keys, and what the caller makes anew for each call. */
  readonly isPassing: (place: string) => boolean;
  /** Whether conditions are to hold for other sessions, too. */
  readonly isGeneral: boolean;
  /** Whether some write stands between two members. */
  readonly isWrittenBetween: (member: number, later: number) => boolean;
}
