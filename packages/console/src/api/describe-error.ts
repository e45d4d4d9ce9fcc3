import { UpsetterProblem } from '@upsetter/client';

/** What went wrong, for people. */
export function describeError(error: unknown): string {
  if (error instanceof UpsetterProblem) return error.problem.detail;
  return error instanceof Error ? error.message : String(error);
}

export interface Mistake {
  readonly message: string;
  readonly line: number;
  readonly column: number;
  readonly path: string;
}

/** The mistakes of a refused file; none for other errors. */
export function mistakesOf(error: unknown): readonly Mistake[] {
  return error instanceof UpsetterProblem ? (error.problem.problems ?? []) : [];
}
