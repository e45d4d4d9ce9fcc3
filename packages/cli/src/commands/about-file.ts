/** Runs something about a file; a problem it ends in remembers the file, so that its lines can be shown. */
export async function aboutFile<T>(name: string, text: string, run: () => Promise<T>): Promise<T> {
  try {
    return await run();
  } catch (error) {
    if (error instanceof Error) (error as { file?: object }).file ??= { name, text };
    throw error;
  }
}

/** The file an error is about, when it is about one. */
export function fileOf(error: unknown): { name: string; text: string } | null {
  return (error as { file?: { name: string; text: string } }).file ?? null;
}
