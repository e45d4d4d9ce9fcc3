import type { IncomingMessage, ServerResponse } from 'node:http';
import type { TLSSocket } from 'node:tls';
import {
  CallRecord,
  type CompiledBreak,
  type CompiledOperation,
  type Lane,
  type PlannedCallback,
  type RenderedAnswer,
  RequestView,
  readLaneName,
  type UpsetPlan,
} from '@upsetter/core';
import { makeCallId } from './call-id.js';
import type { LiveService } from './live-service.js';
import { type RequestHead, readHead } from './read-head.js';

/** What TLS says of a call. */
function readSecurity(request: RequestView, socket: Partial<TLSSocket>): void {
  request.scheme = 'https';
  if (socket.authorized !== true) return;
  const name: string | string[] | undefined = socket.getPeerCertificate?.().subject?.CN;
  request.clientCertificate = [name].flat()[0] ?? null;
}

/** One call on its way: the record that stays, and what is only needed until the answer is sent. Every field set at once. */
export class Call {
  readonly record: CallRecord;
  readonly request: RequestView;
  readonly head: RequestHead;
  readonly live: LiveService;
  readonly incoming: IncomingMessage;
  readonly outgoing: ServerResponse;
  readonly startedMs: number;
  readonly lane: Lane;
  /** The body as it was sent, packed where it was. */
  receivedBody: Uint8Array | null = null;
  operation: CompiledOperation | null = null;
  /** Methods the path has, when it does not have this one. */
  allow: readonly string[] | null = null;
  /** Several operations have this address, and the body tells which one is meant. */
  isShared = false;
  /** Troubles are told as SOAP faults. */
  isSoap = false;
  plan: UpsetPlan | null = null;
  answer: RenderedAnswer | null = null;
  /** How it breaks in the place of its answer; null: it does not. */
  broken: CompiledBreak | null = null;
  /** What is called once the answer is sent; null: nobody. */
  callbacks: readonly PlannedCallback[] | null = null;

  constructor(incoming: IncomingMessage, outgoing: ServerResponse, live: LiveService, startedMs: number) {
    const nowMs = Date.now();
    const head = readHead(incoming);
    const request = new RequestView(
      makeCallId(nowMs),
      incoming.method ?? 'GET',
      incoming.url ?? '/',
      incoming.rawHeaders,
      nowMs,
    );
    request.lane = readLaneName(head.lane, head.baggage) ?? live.compiled.nameLane?.(request) ?? 'main';
    if (request.lane === '') request.lane = 'main';
    const socket = incoming.socket as Partial<TLSSocket>;
    request.clientAddress = socket.remoteAddress ?? null;
    if (socket.encrypted === true) readSecurity(request, socket);
    this.request = request;
    this.head = head;
    this.record = new CallRecord(request, live.compiled.name, live.version, live.revision, live.compiled);
    this.live = live;
    this.incoming = incoming;
    this.outgoing = outgoing;
    this.startedMs = startedMs;
    this.lane = live.lanes.get(request.lane);
    this.lane.receive(nowMs);
  }
}
