/** One request with its response, as heard; secret headers are masked already. Header lists are flat: name, value, name, value. */
export interface Exchange {
  /** Position in its source, from 0. */
  readonly index: number;
  readonly startedAtMs: number;
  /** From the start to the first byte of the answer; 0 where the source does not say. */
  readonly firstByteMs: number;
  readonly tookMs: number;
  readonly method: string;
  readonly origin: string;
  readonly path: string;
  readonly query: readonly (readonly [name: string, value: string])[];
  readonly requestHeaders: readonly string[];
  readonly requestBody: string | null;
  readonly status: number;
  readonly responseHeaders: readonly string[];
  readonly contentType: string;
  /** The decoded body: text, or base64 when it is not text. */
  readonly body: { readonly kind: 'text' | 'base64'; readonly content: string } | null;
  /** What went wrong while it was heard (an answer cut off, a body too large to keep); null when nothing did. */
  readonly trouble: string | null;
}

export function headerOf(flat: readonly string[], name: string): string | null {
  for (let i = 0; i < flat.length; i += 2) if (flat[i]?.toLowerCase() === name) return flat[i + 1] ?? null;
  return null;
}
