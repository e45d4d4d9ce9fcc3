import { setCookiesOf } from './credentials.js';
import type { Heard } from './heard.js';
import { eachLeaf } from './leaves.js';

/** Where values were first seen, and which requests used them: what tells made values from repeated ones. */
export interface ValueFlow {
  /** Whether an answer is the first to show this value, its own request included. */
  readonly isFresh: (value: unknown, position: number) => boolean;
  /** The first answer that showed the value, when no request had it before; null otherwise. */
  readonly madeAt: (value: unknown) => number | null;
  /** Whether a later request carries the value, in path, query or body. */
  readonly isUsedAfter: (value: unknown, position: number) => boolean;
  /** Whether the body of an earlier request carried the value: data of the session, not a word of the service. */
  readonly isSentBefore: (value: unknown, position: number) => boolean;
  /** Whether any later answer shows it again. */
  readonly isShownAfter: (value: unknown, position: number) => boolean;
}

interface Trace {
  firstSeen: number;
  firstInAnswer: boolean;
  lastUsed: number;
  lastShown: number;
  firstSent: number;
}

export function traceValues(heard: readonly Heard[]): ValueFlow {
  const traces = new Map<string, Trace>();
  const see = (value: unknown, position: number, isAnswer: boolean, isBody = false): void => {
    if (value === null || typeof value === 'boolean' || value === '') return;
    const key = String(value);
    const trace = traces.get(key);
    if (trace === undefined) {
      traces.set(key, {
        firstSeen: position,
        firstInAnswer: isAnswer,
        lastUsed: isAnswer ? -1 : position,
        lastShown: isAnswer ? position : -1,
        firstSent: isBody ? position : Number.POSITIVE_INFINITY,
      });
      return;
    }
    if (isBody) trace.firstSent = Math.min(trace.firstSent, position);
    if (isAnswer) trace.lastShown = position;
    else trace.lastUsed = position;
  };
  for (const item of heard) {
    for (const segment of item.segments) see(segment, item.position, false);
    for (const value of item.query.values()) see(value, item.position, false);
    for (const value of item.form.values()) see(value, item.position, false);
    eachLeaf(item.sentJson, (value) => see(value, item.position, false, true));
    for (const word of headerWords(item)) see(word, item.position, false);
    eachLeaf(item.answerJson, (value) => see(value, item.position, true));
    for (const { value } of setCookiesOf(item)) see(value, item.position, true);
    for (const segment of item.location?.split(/[/?#]/) ?? []) see(segment, item.position, true);
  }
  const traceOf = (value: unknown): Trace | undefined =>
    value === null || typeof value === 'object' ? undefined : traces.get(String(value));
  return {
    isFresh: (value, position) => {
      const trace = traceOf(value);
      return trace?.firstInAnswer === true && trace.firstSeen === position;
    },
    madeAt: (value) => {
      const trace = traceOf(value);
      return trace?.firstInAnswer === true ? trace.firstSeen : null;
    },
    isUsedAfter: (value, position) => (traceOf(value)?.lastUsed ?? -1) > position,
    isSentBefore: (value, position) => (traceOf(value)?.firstSent ?? position) < position,
    isShownAfter: (value, position) => (traceOf(value)?.lastShown ?? -1) > position,
  };
}

/** The words of headers that carry credentials or keys: `Bearer abc` is two. */
function headerWords({ exchange: { requestHeaders } }: Heard): string[] {
  const words: string[] = [];
  for (let i = 0; i < requestHeaders.length; i += 2) {
    if (/^(authorization|cookie|x-.*(key|token|session).*)$/i.test(requestHeaders[i] ?? ''))
      words.push(...(requestHeaders[i + 1] ?? '').split(/[\s;,=]+/));
  }
  return words;
}
