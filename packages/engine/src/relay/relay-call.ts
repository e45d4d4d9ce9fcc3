import type { IncomingMessage, ServerResponse } from 'node:http';
import { hasBody, passHeaders } from './relay-headers.js';
import { BodyTap, type RelayedCall } from './relayed-call.js';
import type { Upstream } from './upstream.js';

export interface RelayOptions {
  readonly upstream: Upstream;
  /** The most bytes of a body that are kept; longer ones pass all the same. */
  readonly keptBodyBytes: number;
  /** Told once of every call, when it has ended one way or the other. */
  readonly onHeard: (call: RelayedCall) => void;
}

/**
 * Passes one call through to the upstream, unchanged and as it comes: no body is waited for. A failure of the upstream
 * reaches the caller as the same kind of failure: no connection is a 502, silence a 504, a body cut off is cut off.
 */
export function relayCall(incoming: IncomingMessage, outgoing: ServerResponse, options: RelayOptions): void {
  new Relayed(incoming, outgoing, options).start();
}

/** One call on its way through. */
class Relayed {
  readonly #incoming: IncomingMessage;
  readonly #outgoing: ServerResponse;
  readonly #options: RelayOptions;
  readonly #startedAtMs = Date.now();
  readonly #startedMs = performance.now();
  readonly #asked: BodyTap;
  readonly #answered: BodyTap;
  #firstByteMs = 0;
  #answer: IncomingMessage | null = null;
  #trouble: string | null = null;
  #isTold = false;

  constructor(incoming: IncomingMessage, outgoing: ServerResponse, options: RelayOptions) {
    this.#incoming = incoming;
    this.#outgoing = outgoing;
    this.#options = options;
    this.#asked = new BodyTap(options.keptBodyBytes);
    this.#answered = new BodyTap(options.keptBodyBytes);
  }

  start(): void {
    const { upstream } = this.#options;
    const { method = 'GET', url = '/', rawHeaders } = this.#incoming;
    const headers = passHeaders(rawHeaders, upstream.host);
    const request = upstream.send(method, url, headers);
    request.on('response', (answer) => this.#pass(answer));
    request.on('timeout', () => request.destroy(new UpstreamSilent(upstream.timeoutMs)));
    request.on('error', (error) => this.#failed(error));
    request.on('continue', () => this.#outgoing.writeContinue());
    this.#outgoing.on('close', () => {
      if (!this.#outgoing.writableFinished) {
        this.#trouble ??= 'the caller left before the answer was whole';
        request.destroy();
      }
      this.#tell();
    });
    if (!hasBody(rawHeaders)) {
      request.end();
      return;
    }
    this.#incoming.on('data', (chunk: Buffer) => this.#asked.hear(chunk));
    this.#incoming.pipe(request);
  }

  #pass(answer: IncomingMessage): void {
    this.#answer = answer;
    this.#firstByteMs = performance.now() - this.#startedMs;
    this.#outgoing.writeHead(answer.statusCode ?? 502, answer.statusMessage, passHeaders(answer.rawHeaders, null));
    // The head goes at once: an event stream may have nothing to say for a while.
    this.#outgoing.flushHeaders();
    answer.on('data', (chunk: Buffer) => this.#answered.hear(chunk));
    answer.on('error', () => this.#cut());
    answer.on('aborted', () => this.#cut());
    answer.pipe(this.#outgoing);
  }

  /** The upstream ended in the middle of its answer: so does ours. */
  #cut(): void {
    this.#trouble ??= 'the upstream cut its answer off';
    this.#outgoing.destroy();
  }

  #failed(error: Error): void {
    if (this.#answer !== null) {
      this.#cut();
      return;
    }
    if (this.#outgoing.destroyed || this.#outgoing.headersSent) return;
    const isSilent = error instanceof UpstreamSilent;
    this.#trouble ??= isSilent ? error.message : `the upstream cannot be reached: ${error.message}`;
    const status = isSilent ? 504 : 502;
    const code = isSilent ? 'upstream-silent' : 'upstream-unreachable';
    const body = JSON.stringify({
      type: 'about:blank',
      title: 'The upstream did not answer',
      status,
      code,
      detail: this.#trouble,
    });
    this.#outgoing.writeHead(status, {
      'content-type': 'application/problem+json',
      'content-length': Buffer.byteLength(body),
    });
    this.#outgoing.end(body);
  }

  #tell(): void {
    if (this.#isTold) return;
    this.#isTold = true;
    const { method = 'GET', url = '/', rawHeaders } = this.#incoming;
    this.#options.onHeard({
      startedAtMs: this.#startedAtMs,
      firstByteMs: this.#firstByteMs,
      tookMs: performance.now() - this.#startedMs,
      method,
      upstream: this.#options.upstream.url,
      target: url,
      requestHeaders: rawHeaders,
      requestBody: this.#asked.body(),
      status: this.#answer?.statusCode ?? 0,
      responseHeaders: this.#answer?.rawHeaders ?? [],
      responseBody: this.#answered.body(),
      trouble: this.#trouble,
    });
  }
}

class UpstreamSilent extends Error {
  constructor(timeoutMs: number) {
    super(`the upstream did not answer within ${timeoutMs / 1000} s`);
  }
}
