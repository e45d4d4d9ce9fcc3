import type { Call } from '../call/call.js';
import type { CallLog } from '../call/call-log.js';
import { checkRelayedAnswer } from '../call/check-contract.js';
import { completeRecord } from '../wire/send-answer.js';
import { waitPrecisely } from '../wire/wait.js';
import { relayReadCall } from './relay-call.js';
import type { RelayedCall } from './relayed-call.js';
import type { StrayRelay } from './stray-relay.js';
import { toExchange } from './to-exchange.js';

const KEPT_BODY_BYTES = 4 * 1024 * 1024;

/** Passes a stray on to the real service, after what upsets ask for; the record says what came back. */
export function relayStray(call: Call, relay: StrayRelay, log: CallLog): void {
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
      onHeard: (heard) => {
        keepAnswer(call, heard);
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

function keepAnswer(call: Call, heard: RelayedCall): void {
  const { record, outgoing } = call;
  record.status = heard.status === 0 ? outgoing.statusCode : heard.status;
  record.responseHeaders = heard.responseHeaders;
  const { body } = toExchange(heard);
  record.responseBody =
    body === null ? null : body.kind === 'text' ? body.content : Buffer.from(body.content, 'base64');
  record.trouble = heard.trouble;
  if (heard.status > 0 && heard.trouble === null && call.live.compiled.contract !== null)
    checkRelayedAnswer(call, { status: heard.status, headers: heard.responseHeaders, body: record.responseBody });
}
