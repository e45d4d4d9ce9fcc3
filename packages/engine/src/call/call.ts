import type { IncomingMessage, ServerResponse } from 'node:http';
import {
  CallRecord,
  type CompiledOperation,
  type Lane,
  type RenderedAnswer,
  RequestView,
  type UpsetPlan,
} from '@upsetter/core';
import { v7 as uuidv7 } from 'uuid';
import type { LiveService } from './live-service.js';

/** One call on its way: the record that stays, and what is only needed until the answer is sent. Every field set at once. */
export class Call {
  readonly record: CallRecord;
  readonly request: RequestView;
  readonly live: LiveService;
  readonly incoming: IncomingMessage;
  readonly outgoing: ServerResponse;
  readonly startedMs: number;
  readonly lane: Lane;
  operation: CompiledOperation | null = null;
  /** Methods the path has, when it does not have this one. */
  allow: readonly string[] | null = null;
  plan: UpsetPlan | null = null;
  answer: RenderedAnswer | null = null;

  constructor(
    incoming: IncomingMessage,
    outgoing: ServerResponse,
    live: LiveService,
    laneName: string,
    startedMs: number,
  ) {
    const request = new RequestView(
      uuidv7(),
      incoming.method ?? 'GET',
      incoming.url ?? '/',
      incoming.headers,
      Date.now(),
    );
    request.lane = laneName;
    this.request = request;
    this.record = new CallRecord(
      request,
      incoming.rawHeaders,
      live.compiled.name,
      live.version,
      live.revision,
      live.compiled,
    );
    this.live = live;
    this.incoming = incoming;
    this.outgoing = outgoing;
    this.startedMs = startedMs;
    this.lane = live.lanes.get(laneName);
  }
}
