import type { RelayedForm } from '@upsetter/core';
import type { Call } from '../call/call.js';
import type { CallLog } from '../call/call-log.js';
import { checkRelayedAnswer } from '../call/check-contract.js';
import { bodyTarget } from '../wire/paced-body.js';
import { completeRecord, type WireContext } from '../wire/send-answer.js';
import { waitPrecisely } from '../wire/wait.js';
import { type RelayChange, relayReadCall } from './relay-call.js';
import { replaceHeaders } from './relay-headers.js';
import type { RelayedCall } from './relayed-call.js';
import type { StrayRelay } from './stray-relay.js';
import { toExchange } from './to-exchange.js';
import type { Upstream } from './upstream.js';

const KEPT_BODY_BYTES = 4 * 1024 * 1024;

/** Passes a stray on to the real service, after what upsets ask for; the record says what came back. */
export function relayStray(call: Call, relay: StrayRelay, log: CallLog): void {
  relayAnswered(call, relay, log);
}

/** The same for a call whose case answers with what the upstream does. */
export function relayByCase(call: Call, form: RelayedForm, upstream: Upstream, mock: WireContext): void {
  const { status = 0, headers = [] } = call.answer ?? {};
  call.outgoing.on('close', () => {
    if (call.callbacks !== null) mock.callbacks.send(call.record, call.callbacks);
  });
  const change = { ...form, status, answerHeaders: headers };
  relayAnswered(call, { upstream, onHeard: null }, mock.log, change);
}

function relayAnswered(call: Call, relay: StrayRelay, log: CallLog, change?: RelayChange): void {
  const { record, outgoing } = call;
  record.answeredBy = 'upstream';
  const decidedMs = performance.now();
  record.ownMs = decidedMs - call.startedMs;
  // Told last: the answer heard is on the record before the record is complete.
  const send = (): void =>
    relayReadCall(call.incoming, outgoing, call.receivedBody, {
      upstream: relay.upstream,
      keptBodyBytes: KEPT_BODY_BYTES,
      nextOrder: () => 0,
      rewrite: null,
      ...(change === undefined ? {} : { change }),
      target: (bodyBytes) => bodyTarget(call, bodyBytes),
      onHeard: (heard) => {
        keepAnswer(call, heard, change?.answerHeaders ?? []);
        completeRecord(call, log);
        relay.onHeard?.(heard);
      },
    });
  if (record.delayAskedMs === 0) {
    send();
    return;
  }
  const cancel = waitPrecisely(record.delayAskedMs, () => {
    record.delayGivenMs = performance.now() - decidedMs;
    send();
  });
  outgoing.on('close', () => {
    cancel();
    completeRecord(call, log);
  });
}

/** `changed`: headers that the caller got in the place of the upstream's. */
function keepAnswer(call: Call, heard: RelayedCall, changed: readonly string[]): void {
  const { record, outgoing } = call;
  record.status = heard.status === 0 || outgoing.headersSent ? outgoing.statusCode : heard.status;
  record.responseHeaders =
    changed.length === 0 ? heard.responseHeaders : replaceHeaders(heard.responseHeaders, changed, []);
  const { body } = toExchange(heard);
  record.responseBody =
    body === null ? null : body.kind === 'text' ? body.content : Buffer.from(body.content, 'base64');
  record.trouble = heard.trouble;
  if (heard.status > 0 && heard.trouble === null && call.live.compiled.contract !== null)
    checkRelayedAnswer(call, { status: heard.status, headers: heard.responseHeaders, body: record.responseBody });
}
