import type { Problem } from '@upsetter/core/wire';

/** 0 done, 1 a check did not hold, 2 wrong use or a bad file, 3 the service (or its database) cannot be reached. */
export const EXIT = { done: 0, notHeld: 1, wrongUse: 2, unreachable: 3 } as const;

const UNREACHABLE = new Set(['service-unreachable', 'store-unavailable', 'store-in-use']);

/** The one mapping of the command line: a stable error code to an exit code. */
export function exitCodeOf(code: string): number {
  return UNREACHABLE.has(code) ? EXIT.unreachable : EXIT.wrongUse;
}

/** An error that knows its problem: one of ours (`AppError`) or one the service answered (`UpsetterProblem`). Null for a mistake of ours. */
export function problemOf(error: unknown): Pick<Problem, 'code' | 'detail' | 'next' | 'problems'> | null {
  const { problem, code, message, details } = error as {
    problem?: Problem;
    code?: unknown;
    message?: string;
    details?: object;
  };
  if (problem !== undefined) return problem;
  if ((error as Error).name === 'AppError' && typeof code === 'string')
    return { code, detail: message ?? '', next: '', ...details };
  return null;
}
