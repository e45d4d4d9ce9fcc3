import { AppError, placeMistake } from '@upsetter/core';

type Path = readonly (string | number)[];

/** A mistake that shows only where a service file is put to use, such as a certificate that is none. */
export class FileMistake extends AppError {
  readonly path: Path;
  readonly reason: string;

  constructor(path: Path, reason: string) {
    super('file-refused', `${path.join('.')}: ${reason}`);
    this.path = path;
    this.reason = reason;
  }
}

/** Runs what may find a mistake in the text of a file, and says its line and column. Fails with `file-refused` then. */
export async function placingMistakes<T>(text: string, run: () => Promise<T>): Promise<T> {
  try {
    return await run();
  } catch (error) {
    throw error instanceof FileMistake ? placeMistake(text, error.path, error.reason) : error;
  }
}
