/** What a write does, as the file says it: values named by `let`, steps of `then`. One of each for every member. */
export interface DraftedWrite {
  readonly lets: readonly Readonly<Record<string, unknown>>[];
  readonly steps: readonly (readonly unknown[])[];
}
