import { setTimeout as wait } from 'node:timers/promises';
import type { SendCall } from '@upsetter/core';
import { sendRequest } from '../wire/send-request.js';

export interface TrialSenderOptions {
  readonly against: URL;
  /** Sent with each call, in the place of those that were made up; names in lower case. */
  readonly headers: readonly (readonly [name: string, value: string])[];
  readonly callsPerSecond: number;
}

const MS_PER_SECOND = 1000;

/** Sends calls to the real implementation, at most so many a second; its redirects are answers, too. */
export function createTrialSender({ against, headers, callsPerSecond }: TrialSenderOptions): SendCall {
  const gapMs = MS_PER_SECOND / callsPerSecond;
  let nextMs = 0;
  return async (request) => {
    const waitMs = nextMs - performance.now();
    if (waitMs > 0) await wait(waitMs);
    const startedMs = performance.now();
    nextMs = startedMs + gapMs;
    const answer = await sendRequest(against, { ...request, headers: withHeaders(request.headers, headers) });
    return { answer, tookMs: performance.now() - startedMs };
  };
}

function withHeaders(own: readonly string[], given: TrialSenderOptions['headers']): string[] {
  const names = new Set(given.map(([name]) => name));
  const kept = own.filter((_, i) => !names.has((own[i - (i % 2)] ?? '').toLowerCase()));
  return [...kept, ...given.flat()];
}
