/** An answer ready for the wire. `headers` is flat: name, value, name, value; the length is the wire's to add. */
export interface RenderedAnswer {
  readonly status: number;
  readonly headers: readonly string[];
  readonly body: string | Uint8Array | null;
  /** What the wire does beyond sending the body; left out: nothing. */
  readonly wire?: WireForm;
}

export type WireForm = PackedForm | EventsForm | RelayedForm | StoredForm;

/** Pieces of a file that is sent from where it is: bytes from `start` to `end` (inclusive), and ASCII text between them. */
export interface StoredForm {
  readonly kind: 'stored';
  readonly path: string;
  /** Of the file, in bytes. */
  readonly size: number;
  readonly pieces: readonly BodyPiece[];
}

export type BodyPiece = string | { readonly start: number; readonly end: number };

/** The body is packed with a coding that the caller takes. */
export interface PackedForm {
  readonly kind: 'packed';
}

/** Server-Sent Events, each in the form of the wire, at its time after the one before it. */
export interface EventsForm {
  readonly kind: 'events';
  readonly events: readonly { readonly text: string; readonly afterMs: number }[];
  readonly last: 'close' | 'stay' | 'again';
}

/** The call goes to the upstream; status (0: its own) and headers of the answer are added to what comes back. */
export interface RelayedForm {
  readonly kind: 'relayed';
  readonly target: string | null;
  /** Headers that the upstream gets in the place of those of the call. */
  readonly headers: readonly string[];
  /** Headers that the upstream does not get, in lower case. */
  readonly without: readonly string[];
}
