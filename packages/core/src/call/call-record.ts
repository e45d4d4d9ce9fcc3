import type { SentCallback } from '../callback/sent-callback.js';
import type { CallFinding } from '../contract/keeping/call-finding.js';
import type { FoundValue } from '../explain/found-value.js';
import type { CompiledService } from '../matching/compile-service.js';
import type { RequestView } from '../request/request-view.js';
import { shareTexts } from '../request/share-texts.js';

export type AnsweredBy = 'case' | 'upset' | 'upstream' | 'access' | 'contract' | 'nobody';
/** A body that was too large to keep. */
export interface DroppedBody {
  readonly sizeBytes: number;
  readonly sha256: string;
}

export interface DroppedBodies {
  readonly request: DroppedBody | null;
  readonly response: DroppedBody | null;
}

export type CallState = 'in flight' | 'done' | 'broken';

/**
 * Everything that is known and decided about one received call. Made when the call is received, completed when its
 * answer is sent; one shape, every field set at once (the hot path relies on it).
 */
export class CallRecord {
  readonly request: RequestView;
  readonly service: string;
  readonly version: string | null;
  readonly revision: number;
  /** The table the call began with, so that it is explained by what answered it; null when read back from the store. */
  readonly compiled: CompiledService | null;
  operation: string | null = null;
  caseName: string | null = null;
  answeredBy: AnsweredBy = 'nobody';
  isStray = false;
  state: CallState = 'in flight';
  status: number | null = null;
  responseHeaders: readonly string[] = NO_TEXTS;
  responseBody: string | Uint8Array | null = null;
  upsets: readonly string[] = NO_TEXTS;
  delayAskedMs = 0;
  delayGivenMs = 0;
  /** The mock's own time: from receipt to the first byte, without the delay given. */
  ownMs = 0;
  totalMs = 0;
  trouble: string | null = null;
  /** How call and answer differ from the service's contract; null: not at all, or there is none. */
  findings: readonly CallFinding[] | null = null;
  /** What conditions on state and rows found when the call was decided; null where none was asked. */
  found: readonly FoundValue[] | null = null;
  /** Calls that were made because of this one; null: none. Grows after the call is complete. */
  callbacks: readonly SentCallback[] | null = null;
  /** Lines that the case left on it; null: none. */
  notes: readonly string[] | null = null;
  /** Bodies over the kept limit, of which only size and digest remain. */
  dropped: DroppedBodies | null = null;

  constructor(
    request: RequestView,
    service: string,
    version: string | null,
    revision: number,
    compiled: CompiledService | null,
  ) {
    this.request = request;
    this.service = service;
    this.version = version;
    this.revision = revision;
    this.compiled = compiled;
  }

  /** Takes over the texts that it has alike with another record, so that they are kept once. */
  share(other: CallRecord): void {
    this.request.share(other.request);
    this.responseHeaders = shareTexts(this.responseHeaders, other.responseHeaders);
  }
}

const NO_TEXTS: readonly string[] = [];
