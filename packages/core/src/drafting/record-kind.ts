/** Things of one kind that answers show and paths name: bookings, told apart by their field `id`. */
export interface RecordKind {
  /** Name of the dataset: bookings. */
  readonly name: string;
  /** One of them: booking. */
  readonly noun: string;
  readonly key: string;
  /** The path of a thing that is one of its kind, and has no key: `till`; null for things with keys. */
  readonly singlePath: string | null;
  readonly isNumeric: boolean;
  /** Every value of the key that was heard. */
  readonly keys: ReadonlySet<string>;
  /** The fields that were seen in maps with the key. */
  readonly fields: ReadonlySet<string>;
  /** What they belong to; null where that need not be known. */
  readonly owner: Owner | null;
}

/** What the rows of a kind belong to, where that tells them apart or says which are listed: things that paths name before them. */
export interface Owner {
  /** Fields of the rows that hold the keys of their owners, the outermost first: `code` for visits at `/ports/{code}/visits`. */
  readonly fields: readonly string[];
  /** Those of them that answers do not show: only paths do. */
  readonly hidden: readonly string[];
  /** Whether rows are told apart only together with their owners, since keys are counted anew within each. */
  readonly isKey: boolean;
  /** Where calls name the owner: in the path, or by who calls. */
  readonly by: 'path' | 'caller';
}
