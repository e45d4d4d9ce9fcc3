import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Writable } from 'node:stream';
import { writeHead } from '../wire/write-head.js';
import { type AnswerRewrite, askPlain, isRewritten, withoutLength } from './answer-rewrite.js';
import { hasBody, passHeaders, replaceHeaders } from './relay-headers.js';
import { BodyTap, type RelayedCall } from './relayed-call.js';
import type { Upstream } from './upstream.js';

export interface RelayOptions {
  readonly upstream: Upstream;
  /** The most bytes of a body that are kept; longer ones pass all the same. */
  readonly keptBodyBytes: number;
  /** The next place in the order of calls. */
  readonly nextOrder: () => number;
  /** Rewrites what would lead callers past the relay; null: everything passes as it is. */
  readonly rewrite: AnswerRewrite | null;
  /** What of the call, and of its answer, is another; left out: nothing. */
  readonly change?: RelayChange;
  /** Where the body of the answer is written, by how long it is said to be; left out: to the answer itself. */
  readonly target?: (bodyBytes: number | null) => Writable;
  /** Told once of every call, when it has ended one way or the other. */
  readonly onHeard: (call: RelayedCall) => void;
}

/** Headers are flat; those of the answer are put in the place of the upstream's of the same name. */
export interface RelayChange {
  readonly target: string | null;
  readonly headers: readonly string[];
  readonly without: readonly string[];
  /** 0: the upstream's. */
  readonly status: number;
  readonly answerHeaders: readonly string[];
}

/**
 * Passes one call through to the upstream, unchanged and as it comes: no body is waited for. A failure of the upstream
 * reaches the caller as the same kind of failure: no connection is a 502, silence a 504, a body cut off is cut off.
 */
export function relayCall(incoming: IncomingMessage, outgoing: ServerResponse, options: RelayOptions): void {
  new Relayed(incoming, outgoing, options).start(null);
}

/** As `relayCall`, for a call whose body was read already. */
export function relayReadCall(
  incoming: IncomingMessage,
  outgoing: ServerResponse,
  body: Uint8Array | null,
  options: RelayOptions,
): void {
  new Relayed(incoming, outgoing, options).start(body ?? NO_BODY);
}

const NO_BODY = new Uint8Array(0);

/** One call on its way through. */
class Relayed {
  readonly #incoming: IncomingMessage;
  readonly #outgoing: ServerResponse;
  readonly #options: RelayOptions;
  readonly #order: number;
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
    this.#order = options.nextOrder();
    this.#asked = new BodyTap(options.keptBodyBytes);
    this.#answered = new BodyTap(options.keptBodyBytes);
  }

  /** `body`: what was read already; null: it is still to come. */
  start(body: Uint8Array | null): void {
    const { upstream, rewrite, change } = this.#options;
    const { method = 'GET', rawHeaders } = this.#incoming;
    const url = change?.target ?? this.#incoming.url ?? '/';
    const own = passHeaders(rawHeaders, upstream.host);
    const passed = change === undefined ? own : replaceHeaders(own, change.headers, change.without);
    const headers = rewrite === null ? passed : askPlain(passed);
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
    if (body !== null) {
      if (body.byteLength > 0) this.#asked.hear(body);
      request.end(body);
      return;
    }
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
    const { rewrite } = this.#options;
    const passed = passHeaders(answer.rawHeaders, null);
    answer.on('data', (chunk: Buffer) => this.#answered.hear(chunk));
    answer.on('error', () => this.#cut());
    answer.on('aborted', () => this.#cut());
    if (rewrite !== null && isRewritten(passed)) {
      this.#passRewritten(answer, passed, rewrite);
      return;
    }
    const rewritten = rewrite === null ? passed : rewrite.headers(passed);
    const { change } = this.#options;
    const headers = change === undefined ? rewritten : replaceHeaders(rewritten, change.answerHeaders, []);
    if (change !== undefined && change.status > 0) writeHead(this.#outgoing, change.status, headers);
    else writeHead(this.#outgoing, answer.statusCode ?? 502, headers, answer.statusMessage);
    // The head goes at once: an event stream may have nothing to say for a while.
    this.#outgoing.flushHeaders();
    const length = Number(answer.headers['content-length'] ?? Number.NaN);
    answer.pipe(this.#options.target?.(Number.isNaN(length) ? null : length) ?? this.#outgoing);
  }

  /** A text is rewritten as a whole: it waits for its end. */
  #passRewritten(answer: IncomingMessage, passed: readonly string[], rewrite: AnswerRewrite): void {
    const chunks: Buffer[] = [];
    answer.on('data', (chunk: Buffer) => chunks.push(chunk));
    answer.on('end', () => {
      const body = rewrite.body(Buffer.concat(chunks));
      const headers = [...rewrite.headers(withoutLength(passed)), 'content-length', String(body.byteLength)];
      writeHead(this.#outgoing, answer.statusCode ?? 502, headers, answer.statusMessage);
      this.#outgoing.end(body);
    });
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
    this.#trouble ??= isSilent ? error.message : describeUnreachable(error);
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
      order: this.#order,
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

/** What Node says of certificates that nobody trusted has signed. */
const DISTRUSTED =
  /^(UNABLE_TO_VERIFY_LEAF_SIGNATURE|UNABLE_TO_GET_ISSUER_CERT.*|(SELF|DEPTH_ZERO_SELF)_SIGNED_CERT.*)$/;

function describeUnreachable(error: NodeJS.ErrnoException): string {
  return DISTRUSTED.test(error.code ?? '')
    ? `the certificate of the upstream is not trusted (${error.message}): name what signed it, --authority FILE`
    : `the upstream cannot be reached: ${error.message}`;
}

class UpstreamSilent extends Error {
  constructor(timeoutMs: number) {
    super(`the upstream did not answer within ${timeoutMs / 1000} s`);
  }
}
