import type { BesideFiles } from '@upsetter/core';

/** The files of these names, as far as they are there. */
export function pickFiles(names: readonly string[], files: BesideFiles): BesideFiles {
  return Object.fromEntries(
    names.flatMap((name) => {
      const file = Object.hasOwn(files, name) ? files[name] : undefined;
      return file === undefined ? [] : [[name, file] as const];
    }),
  );
}
