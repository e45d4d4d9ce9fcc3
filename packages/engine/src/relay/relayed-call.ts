/** One call that went through to a real service, with both sides as they were on the wire. Header lists are flat. */
export interface RelayedCall {
  /** Place among the calls of its relay, by when they began; from 0. */
  readonly order: number;
  readonly startedAtMs: number;
  /** From the start to the first byte of the answer. */
  readonly firstByteMs: number;
  readonly tookMs: number;
  readonly method: string;
  readonly upstream: string;
  /** Path and query as sent. */
  readonly target: string;
  readonly requestHeaders: readonly string[];
  readonly requestBody: HeardBody;
  /** 0: no answer came. */
  readonly status: number;
  readonly responseHeaders: readonly string[];
  /** As on the wire: still compressed where it was. */
  readonly responseBody: HeardBody;
  readonly trouble: string | null;
}

/** The bytes of one body; `bytes` null: it was longer than what is kept. */
export interface HeardBody {
  readonly sizeBytes: number;
  readonly bytes: Uint8Array | null;
}

/** Keeps a copy of what passes, up to a limit, so that a body of any length passes in constant memory. */
export class BodyTap {
  readonly #mostBytes: number;
  #chunks: Uint8Array[] | null = [];
  #sizeBytes = 0;

  constructor(mostBytes: number) {
    this.#mostBytes = mostBytes;
  }

  hear(chunk: Uint8Array): void {
    this.#sizeBytes += chunk.byteLength;
    if (this.#sizeBytes > this.#mostBytes) this.#chunks = null;
    this.#chunks?.push(chunk);
  }

  body(): HeardBody {
    return { sizeBytes: this.#sizeBytes, bytes: this.#chunks === null ? null : Buffer.concat(this.#chunks) };
  }
}
