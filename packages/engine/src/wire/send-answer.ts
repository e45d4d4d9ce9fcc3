import { maskTokenCall, type RenderedAnswer, type StoredForm } from '@upsetter/core';
import { buildInternalProblem } from '../call/built-in-answers.js';
import type { Call } from '../call/call.js';
import type { CallLog } from '../call/call-log.js';
import type { CallbackSender } from '../callback/callback-sender.js';
import { breakOff } from './break-off.js';
import { addCorsHeaders } from './cors-headers.js';
import { endWith } from './end-with.js';
import { bodyTarget } from './paced-body.js';
import { packAnswer } from './pack-answer.js';
import { lengthOf, sendStored } from './send-stored.js';
import { streamEvents } from './stream-events.js';
import { waitPrecisely } from './wait.js';
import { writeHead } from './write-head.js';

/** What the wire tells of: the end of calls, and mistakes of ours. */
export interface WireContext {
  readonly log: CallLog;
  readonly callbacks: CallbackSender;
  readonly onFault: (error: unknown) => void;
}

/** The wire owns the socket from here: waits what upsets ask for, sends the answer, completes the record. */
export function sendAnswer(call: Call, mock: WireContext): void {
  const { outgoing, record } = call;
  const decidedMs = performance.now();
  record.ownMs = decidedMs - call.startedMs;
  outgoing.on('close', () => {
    completeRecord(call, mock.log);
    if (call.callbacks !== null) mock.callbacks.send(record, call.callbacks);
  });
  if (record.delayAskedMs === 0) {
    writeAnswer(call);
    return;
  }
  const cancel = waitPrecisely(record.delayAskedMs, () => {
    record.delayGivenMs = performance.now() - decidedMs;
    writeLate(call, mock);
  });
  outgoing.on('close', cancel);
}

/** Nobody stands above a timer: what goes wrong in it ends the call, not the process. */
function writeLate(call: Call, mock: WireContext): void {
  try {
    writeAnswer(call);
  } catch (error) {
    mock.onFault(error);
    call.record.trouble = 'a mistake of ours; the service log says more';
    call.outgoing.destroy();
  }
}

function writeAnswer(call: Call): void {
  const { outgoing, record, answer } = call;
  if (call.broken !== null && !outgoing.destroyed) {
    breakOff(call, call.broken);
    return;
  }
  if (answer === null || outgoing.destroyed) return;
  const sizeBytes = sizeOf(answer.body);
  const headers = buildWireHeaders(call, answer, sizeBytes);
  record.status = answer.status;
  record.responseHeaders = headers;
  const isBodyless = call.request.method === 'HEAD' || hasNoBody(answer.status);
  record.responseBody = isBodyless ? null : answer.body;
  if (answer.wire?.kind === 'stored') {
    void writeStored(call, answer, answer.wire, isBodyless);
    return;
  }
  if (answer.wire !== undefined) {
    writeOnWire(call, answer, isBodyless);
    return;
  }
  writeHead(outgoing, answer.status, headers);
  if (isBodyless || answer.body === null) outgoing.end();
  else if (call.plan?.paces != null) bodyTarget(call, sizeBytes).end(answer.body);
  // As many bytes as characters: it is ASCII, which takes a shorter way to the socket.
  else endWith(outgoing, answer.body, sizeBytes === answer.body.length ? 'latin1' : 'utf8');
}

/** A file is sent from where it is; one that is gone is a trouble of the mock. */
async function writeStored(call: Call, answer: RenderedAnswer, stored: StoredForm, isBodyless: boolean): Promise<void> {
  const { outgoing, record } = call;
  const length = ['content-length', String(lengthOf(stored))];
  const headers = withCors(call, [...answer.headers, ...length]);
  record.responseHeaders = headers;
  const begin = (): void => writeHead(outgoing, answer.status, headers);
  if (isBodyless) {
    begin();
    outgoing.end();
    return;
  }
  if (await sendStored(call, stored, begin)) return;
  record.trouble = `${stored.path} is not there, or is shorter than when it was applied`;
  call.answer = buildInternalProblem(call, record.trouble);
  writeAnswer(call);
}

/** Events are sent at their times; a body that is packed is sent once it is. */
function writeOnWire(call: Call, answer: RenderedAnswer, isBodyless: boolean): void {
  const { outgoing, record, request } = call;
  if (answer.wire?.kind === 'events') {
    const headers = withCors(call, [...answer.headers, 'cache-control', 'no-store']);
    record.responseHeaders = headers;
    writeHead(outgoing, answer.status, headers);
    if (isBodyless) outgoing.end();
    else {
      // The head goes at once: the first event may be a while.
      outgoing.flushHeaders();
      streamEvents(call, answer.wire);
    }
    return;
  }
  packAnswer(answer, request.header('accept-encoding'))
    .then((packed) => {
      const headers = buildWireHeaders(call, packed, sizeOf(packed.body));
      record.responseHeaders = headers;
      writeHead(outgoing, packed.status, headers);
      if (isBodyless || packed.body === null) outgoing.end();
      else bodyTarget(call, sizeOf(packed.body)).end(packed.body);
    })
    .catch((error: Error) => {
      record.trouble = `the answer could not be packed: ${error.message}`;
      outgoing.destroy();
    });
}

/** 204 and 304 never have a body (RFC 9110, 6.4.1). */
function hasNoBody(status: number): boolean {
  return status === 204 || status === 304;
}

function buildWireHeaders(call: Call, { status, headers: own }: RenderedAnswer, sizeBytes: number): readonly string[] {
  const headers = hasNoBody(status) ? [...own] : [...own, 'content-length', String(sizeBytes)];
  return withCors(call, headers);
}

function withCors(call: Call, headers: string[]): readonly string[] {
  const rules = call.live.compiled.cors;
  if (call.head.origin !== null && rules !== null) addCorsHeaders(headers, call.head.origin, rules);
  return headers;
}

function sizeOf(body: string | Uint8Array | null): number {
  if (body === null) return 0;
  return typeof body === 'string' ? Buffer.byteLength(body) : body.byteLength;
}

/** The end of a call, told to the log: its answer is sent, or its caller has left. */
export function completeRecord(call: Call, log: CallLog): void {
  const { record, outgoing } = call;
  if (record.state !== 'in flight') return;
  record.totalMs = performance.now() - call.startedMs;
  // A call that was to break is done when it has.
  record.state = outgoing.writableFinished || call.broken !== null ? 'done' : 'broken';
  if (call.operation?.givesTokens === true) maskTokenCall(record);
  log.completed(record);
}
