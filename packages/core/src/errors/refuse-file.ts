import { AppError, type FileProblem } from './app-error.js';

/** The error for a file with mistakes: `file-refused`, each of them under `problems`. */
export function refuseFile(what: string, problems: readonly FileProblem[]): AppError {
  return new AppError(
    'file-refused',
    problems.length === 1 ? `${what} has a mistake` : `${what} has ${problems.length} mistakes`,
    { problems },
  );
}
