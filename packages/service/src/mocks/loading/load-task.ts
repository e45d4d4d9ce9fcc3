import type { BesideFiles, FileProblem, ReadDocument, ServiceFile } from '@upsetter/core';

/** A service file with what was given beside it. */
export interface LoadTask {
  readonly text: string;
  readonly files: BesideFiles;
}

/** What a thread found: the definition, ready to be compiled, or all mistakes. */
export type LoadOutcome =
  | {
      readonly kind: 'loaded';
      readonly definition: ServiceFile;
      /** The files that it refers to. */
      readonly names: readonly string[];
      /** Documents of its contract. */
      readonly documents: readonly ReadDocument[];
    }
  | { readonly kind: 'refused'; readonly problems: readonly FileProblem[] };
