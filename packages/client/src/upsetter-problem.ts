import type { Problem } from '@upsetter/core/wire';

/** What the service answered instead of doing what it was asked: `problem.code` is stable, `problem.problems` are a file's mistakes. */
export class UpsetterProblem extends Error {
  readonly problem: Problem;

  constructor(problem: Problem) {
    super(problem.detail);
    this.name = 'UpsetterProblem';
    this.problem = problem;
  }
}
