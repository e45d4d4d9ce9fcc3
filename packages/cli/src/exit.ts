import { AppError, ERROR_TABLE } from '@upsetter/core/light';
import type { Problem } from '@upsetter/core/wire';

/** 0 done, 1 a check did not hold, 2 wrong use or a bad file, 3 the service (or its database) cannot be reached. */
export const EXIT = { done: 0, notHeld: 1, wrongUse: 2, unreachable: 3 } as const;

const UNREACHABLE = new Set(['service-unreachable', 'store-unavailable', 'store-in-use']);

/** The one mapping of the command line: a stable error code to an exit code. */
export function exitCodeOf(code: string): number {
  return UNREACHABLE.has(code) ? EXIT.unreachable : EXIT.wrongUse;
}

/** What a problem shows: `unusable` lists the parts of a source that could not be used. */
export type ShownProblem = Pick<Problem, 'code' | 'detail' | 'next' | 'problems'> & {
  readonly unusable?: readonly UnusablePart[];
};

export interface UnusablePart {
  readonly at: string;
  readonly reason: string;
}

/** An error that knows its problem: one the service answered (`UpsetterProblem`) or one of ours (`AppError`). Null for a mistake of ours. */
export function problemOf(error: unknown): ShownProblem | null {
  const { problem } = error as { problem?: Problem };
  if (problem !== undefined) return problem;
  if (!(error instanceof AppError)) return null;
  const { code, message, details } = error;
  const problems = details.problems === undefined ? {} : { problems: [...details.problems] };
  const unusable = Array.isArray(details['unusable']) ? { unusable: details['unusable'] as UnusablePart[] } : {};
  return { code, detail: message, next: ERROR_TABLE[code].next, ...problems, ...unusable };
}
