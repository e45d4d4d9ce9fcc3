import type { IncomingMessage, ServerResponse } from 'node:http';
import {
  type CompiledBreak,
  commitCall,
  type Decision,
  findOperation,
  planUpsets,
  renderUpsetAnswer,
  serveContract,
} from '@upsetter/core';
import type { CallbackSender } from '../callback/callback-sender.js';
import type { FailedHandshake } from '../listener/failed-handshake.js';
import { relayByCase, relayStray } from '../relay/relay-stray.js';
import { completeRecord, sendAnswer } from '../wire/send-answer.js';
import {
  buildExpressionProblem,
  buildInternalProblem,
  buildOptionsAnswer,
  buildOtherMethodAnswer,
  buildStrayAnswer,
  buildTooLargeAnswer,
} from './built-in-answers.js';
import { Call } from './call.js';
import type { CallLog } from './call-log.js';
import { checkAccess } from './check-access.js';
import { checkContract } from './check-contract.js';
import type { LiveService } from './live-service.js';
import { readBody } from './read-body.js';
import { unpackBody } from './unpack-body.js';

/** What a listener gives each of its calls. */
export interface MockContext {
  readonly current: () => LiveService;
  readonly log: CallLog;
  readonly callbacks: CallbackSender;
  readonly maxBodyBytes: number;
  /** Told of mistakes of ours: the caller gets a 500, the service goes on. */
  readonly onFault: (error: unknown) => void;
  /** Told of connections on which TLS could not be opened. */
  readonly onHandshakeFailed: (failure: FailedHandshake) => void;
}

/**
 * The path of one call, from receipt to the last byte. All steps up to the wire are synchronous when there is no body:
 * receive (in the log) -> lane -> operation -> body -> access -> contract -> upset plan -> commit -> wire -> log. A stray may go to the upstream instead.
 */
export function answerCall(incoming: IncomingMessage, outgoing: ServerResponse, mock: MockContext): void {
  const call = receiveCall(incoming, outgoing, mock);
  try {
    findDestination(call, !call.head.hasBody);
    // Where a body is still to come, operations that share a path are told apart once it is there.
    if (call.head.hasBody) answerAfterBody(call, mock);
    else decideAndSend(call, mock);
  } catch (error) {
    answerFault(call, mock, error);
  }
}

function answerAfterBody(call: Call, mock: MockContext): void {
  readBody(call.incoming, call.head.bodyBytes, mock.maxBodyBytes, (read) => {
    try {
      if (read.kind === 'gone') completeRecord(call, mock.log);
      else if (read.kind === 'too-large') refuseLarge(call, mock);
      else answerWithBody(call, read.body, mock);
    } catch (error) {
      answerFault(call, mock, error);
    }
  });
}

function refuseLarge(call: Call, mock: MockContext): void {
  call.record.trouble = `the body is over the limit of ${mock.maxBodyBytes} bytes`;
  call.answer = buildTooLargeAnswer(call, mock.maxBodyBytes);
  sendAnswer(call, mock);
}

function answerWithBody(call: Call, body: Uint8Array, mock: MockContext): void {
  call.receivedBody = body;
  call.request.body = body;
  if (call.head.isPacked) {
    unpack(call, mock)
      .then(() => answerWhole(call, mock))
      .catch((error: unknown) => answerFault(call, mock, error));
    return;
  }
  answerWhole(call, mock);
}

function answerWhole(call: Call, mock: MockContext): void {
  if (call.isShared) findDestination(call, true);
  decideAndSend(call, mock);
}

/** Conditions and expressions see what was packed; what cannot be unpacked stays as it came. */
async function unpack(call: Call, { maxBodyBytes }: MockContext): Promise<void> {
  if (call.receivedBody === null) return;
  const coding = call.request.header('content-encoding') ?? '';
  const unpacked = await unpackBody(call.receivedBody, coding, maxBodyBytes);
  if (unpacked.kind === 'unpacked') call.request.body = unpacked.body;
  else call.record.trouble = unpacked.reason;
}

function receiveCall(incoming: IncomingMessage, outgoing: ServerResponse, mock: MockContext): Call {
  const call = new Call(incoming, outgoing, mock.current(), performance.now());
  mock.log.received(call.record);
  return call;
}

function findDestination(call: Call, isWhole: boolean): void {
  const destination = findOperation(call.live.compiled, call.request, isWhole);
  if (destination.kind === 'operation') {
    call.operation = destination.operation;
    call.record.operation = destination.operation.name;
    call.isSoap = destination.operation.address.soap !== null;
  } else if (destination.kind === 'shared') {
    call.isShared = true;
    call.isSoap = destination.operations.some(({ address }) => address.soap !== null);
  } else if (destination.kind === 'other-method') call.allow = destination.allow;
}

function decideAndSend(call: Call, mock: MockContext): void {
  if (isOwnOptions(call)) call.answer = buildOptionsAnswer(call);
  else if (call.operation === null && call.live.compiled.contract !== null) showContract(call);
  if (call.answer === null) {
    checkAccess(call);
    if (call.answer === null && call.live.compiled.contract !== null) checkContract(call);
    if (call.answer === null) decide(call);
    if (call.answer === null && call.broken === null && call.live.strays !== null) {
      relayStray(call, call.live.strays, mock.log);
      return;
    }
  }
  const wire = call.answer?.wire;
  if (wire?.kind === 'relayed' && call.live.upstream !== null) relayByCase(call, wire, call.live.upstream, mock);
  else sendAnswer(call, mock);
}

function decide(call: Call): void {
  planUpset(call);
  commit(call);
}

/** Who asks for the contract itself gets it. */
function showContract(call: Call): void {
  call.answer = serveContract(call.live.compiled, call.request);
  if (call.answer !== null) call.record.answeredBy = 'contract';
}

/** OPTIONS is answered from the operations there are, unless defined. */
function isOwnOptions(call: Call): boolean {
  return (
    call.operation === null &&
    call.request.method === 'OPTIONS' &&
    (call.allow !== null || call.request.header('access-control-request-method') !== undefined)
  );
}

function planUpset(call: Call): void {
  if (call.live.upsets === null) return;
  call.plan = planUpsets(call.live.upsets, call.record.operation, call.request, call.lane);
  if (call.plan === null) return;
  call.record.upsets = call.plan.names;
  call.record.delayAskedMs = call.plan.delayMs;
}

/** Decides the answer: an upset's in the place of the case's, the case's, or that there is none. One synchronous step. */
function commit(call: Call): void {
  const { record, request, live, lane, operation } = call;
  const upset = call.plan?.answeredBy ?? null;
  const broken = upset?.break ?? null;
  const nowMs = lane.clock.now(request.receivedAtMs);
  const decision =
    broken !== null
      ? breakCall(call, broken, nowMs)
      : upset !== null
        ? renderUpsetAnswer(live.compiled, upset, request, lane, nowMs)
        : operation !== null
          ? commitCall(live.compiled, operation, request, lane, nowMs)
          : null;
  record.found = decision?.found ?? null;
  if (decision?.kind === 'answered') record.notes = decision.notes;
  if (broken !== null) {
    record.answeredBy = 'upset';
    call.broken = broken;
    if (decision?.kind === 'answered') call.callbacks = decision.callbacks;
    return;
  }
  if (decision === null || decision.kind === 'stray') {
    record.isStray = true;
    if (live.strays !== null) return;
    call.answer = call.allow === null ? buildStrayAnswer(call) : buildOtherMethodAnswer(call, call.allow);
    return;
  }
  record.answeredBy = upset !== null ? 'upset' : 'case';
  if (upset === null) record.caseName = decision.caseName;
  if (decision.kind === 'failed') {
    record.trouble = decision.reason;
    call.answer = buildExpressionProblem(call, decision.reason);
  } else {
    call.answer = decision.answer;
    call.callbacks = decision.callbacks;
  }
}

/** What a broken call does all the same: what it changes is kept, unless the upset says that the server failed before it. */
function breakCall(
  { live, lane, operation, request }: Call,
  { isKept }: CompiledBreak,
  nowMs: number,
): Decision | null {
  return isKept && operation !== null ? commitCall(live.compiled, operation, request, lane, nowMs) : null;
}

function answerFault(call: Call, mock: MockContext, error: unknown): void {
  mock.onFault(error);
  call.record.trouble = 'a mistake of ours; the service log says more';
  if (call.outgoing.headersSent) {
    call.outgoing.destroy();
    return;
  }
  call.answer = buildInternalProblem(call);
  sendAnswer(call, mock);
}
