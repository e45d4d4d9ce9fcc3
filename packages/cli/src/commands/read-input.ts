import { readFile } from 'node:fs/promises';
import { AppError } from '@upsetter/core/light';

/** The text of a file named on the command line. Fails with `file-unreadable`. */
export async function readInput(path: string): Promise<string> {
  try {
    return await readFile(path, 'utf8');
  } catch (error) {
    throw describeUnreadable(path, error);
  }
}

export function describeUnreadable(path: string, error: unknown): AppError {
  const { code, message } = error as NodeJS.ErrnoException;
  const reason = code === 'ENOENT' ? 'there is no such file' : code === 'EISDIR' ? 'it is a directory' : message;
  return new AppError('file-unreadable', `${path}: ${reason}`);
}
