import { ERROR_TABLE, type ErrorCode } from './error-table.js';

/** What an error carries beside its message: where it is, what would mend it. */
export interface ErrorDetails {
  readonly problems?: readonly FileProblem[];
  readonly [name: string]: unknown;
}

/** One thing wrong in a file: where (1-based line and column, path of keys), what was expected, what would mend it. */
export interface FileProblem {
  readonly message: string;
  readonly path: string;
  readonly line: number;
  readonly column: number;
  readonly expected?: string;
  readonly nearest?: string;
}

/** An error a user can cause. `code` is public and stable: it decides the HTTP status and the exit code at the edges. */
export class AppError extends Error {
  readonly code: ErrorCode;
  readonly details: ErrorDetails;

  constructor(code: ErrorCode, message: string, details: ErrorDetails = {}, cause?: unknown) {
    super(message, cause === undefined ? undefined : { cause });
    this.name = 'AppError';
    this.code = code;
    this.details = details;
  }

  get status(): number {
    return ERROR_TABLE[this.code].status;
  }
}
