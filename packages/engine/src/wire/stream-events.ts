import type { EventsForm } from '@upsetter/core';
import type { Call } from '../call/call.js';
import { bodyTarget } from './paced-body.js';
import { waitPrecisely } from './wait.js';

/** So much of a stream is kept with its call. */
const KEPT_CHARACTERS = 64 * 1024;

/** Sends events at their times until they end, or the caller leaves. The head is sent already. */
export function streamEvents(call: Call, { events, last }: EventsForm): void {
  const { outgoing, record } = call;
  const target = bodyTarget(call, null);
  let cancel = (): void => {};
  outgoing.on('close', () => cancel());
  let kept = '';
  record.responseBody = kept;
  const sendFrom = (index: number): void => {
    const event = events[index];
    if (event === undefined) {
      if (last === 'again') sendFrom(0);
      else if (last === 'close') target.end();
      return;
    }
    cancel = waitPrecisely(event.afterMs, () => {
      if (outgoing.destroyed) return;
      if (kept.length < KEPT_CHARACTERS) kept = (kept + event.text).slice(0, KEPT_CHARACTERS);
      record.responseBody = kept;
      // A caller that reads slowly is waited for: nothing piles up.
      if (target.write(event.text)) sendFrom(index + 1);
      else target.once('drain', () => sendFrom(index + 1));
    });
  };
  sendFrom(0);
}
