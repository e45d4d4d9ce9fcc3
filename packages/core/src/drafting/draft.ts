/** One thing a draft concluded, with what it was concluded from. */
export interface DraftDecision {
  /** Where in the draft: an operation, a case, or `draft` for the whole. */
  readonly of: string;
  readonly concluded: string;
  readonly evidence: string;
}

/** A proposed service file, and why it is as it is. */
export interface Draft {
  readonly service: string;
  readonly text: string;
  readonly operations: number;
  readonly cases: number;
  readonly decisions: readonly DraftDecision[];
  /** What could not be used, with its place in the source; the rest works. */
  readonly unusable: readonly { readonly at: string; readonly reason: string }[];
}
