/** An answer ready for the wire. `headers` is flat: name, value, name, value; the length is the wire's to add. */
export interface RenderedAnswer {
  readonly status: number;
  readonly headers: readonly string[];
  readonly body: string | Uint8Array | null;
}
