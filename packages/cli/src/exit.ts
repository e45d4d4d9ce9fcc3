import type { AppError } from '@upsetter/core';
import type { Problem } from '@upsetter/core/wire';

/** 0 done, 1 a check did not hold, 2 wrong use or a bad file, 3 the service (or its database) cannot be reached. */
export const EXIT = { done: 0, notHeld: 1, wrongUse: 2, unreachable: 3 } as const;

const UNREACHABLE = new Set(['service-unreachable', 'store-unavailable', 'store-in-use']);

/** The one mapping of the command line: a stable error code to an exit code. */
export function exitCodeOf(code: string): number {
  return UNREACHABLE.has(code) ? EXIT.unreachable : EXIT.wrongUse;
}

export type ShownProblem = Pick<Problem, 'code' | 'detail' | 'next' | 'problems'>;

/** An error that knows its problem: one the service answered (`UpsetterProblem`) or one of ours (`AppError`). Null for a mistake of ours. */
export async function problemOf(error: unknown): Promise<ShownProblem | null> {
  const { problem, name } = error as { problem?: Problem; name?: string };
  if (problem !== undefined) return problem;
  if (name !== 'AppError') return null;
  // Imported only now: whoever threw it has loaded the core already.
  const { ERROR_TABLE } = await import('@upsetter/core');
  const { code, message, details } = error as AppError;
  const problems = details.problems === undefined ? {} : { problems: [...details.problems] };
  return { code, detail: message, next: ERROR_TABLE[code].next, ...problems };
}
