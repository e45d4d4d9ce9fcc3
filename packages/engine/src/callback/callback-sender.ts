import { setTimeout as sleep } from 'node:timers/promises';
import type { CallbackTry, CallRecord, PlannedCallback, SentCallback } from '@upsetter/core';
import { sendRequest } from '../wire/send-request.js';

export interface CallbackOptions {
  /** Why an address may not be called; null: it may. */
  readonly refuse: (url: URL) => string | null;
  /** Told whenever something about a call's callbacks changed, after the call itself is complete. */
  readonly onChange: (record: CallRecord) => void;
}

/** So many wait for their time at once; beyond, callbacks are not made, and say so. */
const MOST_WAITING = 10_000;
/** Of what is answered to a callback so much is kept. */
const LONGEST_KEPT = 64 * 1024;
/** The header that says how many callbacks led to a call, and the most there may be. */
const DEPTH = 'upsetter-callback';
const MOST_DEEP = 10;
/** What of a call its callbacks carry on, so that traces and lanes go through. */
const CARRIED = ['traceparent', 'tracestate', 'baggage'];

interface Underway {
  readonly service: string;
  readonly lane: string;
  readonly done: Promise<void>;
}

/** Makes the calls that answers promise: each at its time, tried again with growing gaps, every try kept with the call that led to it. */
export class CallbackSender {
  readonly #options: CallbackOptions;
  readonly #underway = new Map<AbortController, Underway>();

  constructor(options: CallbackOptions) {
    this.#options = options;
  }

  send(record: CallRecord, planned: readonly PlannedCallback[]): void {
    const sent = planned.map((plan) => toSent(plan, record));
    record.callbacks = sent;
    this.#options.onChange(record);
    planned.forEach((plan, i) => {
      const own = sent[i];
      if (own === undefined) return;
      if (this.#underway.size >= MOST_WAITING) this.#giveUp(record, own, `${MOST_WAITING} callbacks wait already`);
      else if (depthOf(record) >= MOST_DEEP) this.#giveUp(record, own, `callbacks led to callbacks ${MOST_DEEP} times`);
      else this.#start(record, own, plan);
    });
  }

  /** What still waits is given up: of one service, or of all; of one lane alone where one is named. */
  async stop(service: string | null, lane: string | null = null): Promise<void> {
    const meant = [...this.#underway].filter(
      ([, own]) => (service === null || own.service === service) && (lane === null || own.lane === lane),
    );
    for (const [controller] of meant) controller.abort();
    await Promise.all(meant.map(([, { done }]) => done));
  }

  #start(record: CallRecord, sent: MutableCallback, plan: PlannedCallback): void {
    const controller = new AbortController();
    const done = this.#run(record, sent, plan, controller.signal)
      .catch(() => this.#giveUp(record, sent, null))
      .finally(() => this.#underway.delete(controller));
    this.#underway.set(controller, { service: record.service, lane: record.request.lane, done });
  }

  /** Rejects when it is given up. */
  async #run(record: CallRecord, sent: MutableCallback, plan: PlannedCallback, signal: AbortSignal): Promise<void> {
    const wait = (ms: number): Promise<void> => sleep(ms, undefined, { signal, ref: false });
    await wait(plan.afterMs);
    for (let turn = 1; ; turn++) {
      const refusal = refuse(sent.to, this.#options);
      const tried = refusal === null ? await makeTry(sent, signal) : untried(refusal);
      signal.throwIfAborted();
      sent.tries.push(tried);
      const hasArrived = tried.status !== null && tried.status >= 200 && tried.status < 300;
      if (hasArrived || refusal !== null || turn >= plan.tries) sent.state = hasArrived ? 'arrived' : 'failed';
      this.#options.onChange(record);
      if (sent.state !== 'waiting') return;
      await wait(plan.gapMs * 2 ** (turn - 1));
    }
  }

  #giveUp(record: CallRecord, sent: MutableCallback, trouble: string | null): void {
    sent.state = 'given up';
    if (trouble !== null) sent.tries.push(untried(trouble));
    this.#options.onChange(record);
  }
}

/** Why a callback is not sent at all; null: it is. */
function refuse(to: string, { refuse: refuseHost }: CallbackOptions): string | null {
  const url = URL.canParse(to) ? new URL(to) : null;
  return url === null || !/^https?:$/.test(url.protocol) ? `${to} is no http or https URL` : refuseHost(url);
}

function untried(trouble: string): CallbackTry {
  return { atMs: Date.now(), tookMs: 0, status: null, headers: [], body: null, trouble };
}

async function makeTry({ to, method, headers, body }: SentCallback, signal: AbortSignal): Promise<CallbackTry> {
  const atMs = Date.now();
  const startedMs = performance.now();
  const url = new URL(to);
  try {
    const request = { method, target: url.pathname + url.search, headers, body };
    const answer = await sendRequest(new URL(url.origin), request, signal);
    const kept = answer.body === null ? null : answer.body.slice(0, LONGEST_KEPT);
    const tookMs = performance.now() - startedMs;
    return { atMs, tookMs, status: answer.status, headers: [...answer.headers], body: kept, trouble: null };
  } catch (error) {
    return { ...untried((error as Error).message), atMs, tookMs: performance.now() - startedMs };
  }
}

/** How many callbacks led to a call: one that calls the mock itself would go on for ever. */
function depthOf({ request }: CallRecord): number {
  return Number(request.header(DEPTH)) || 0;
}

/** Only the sender changes it. */
type MutableCallback = { -readonly [Key in keyof SentCallback]: SentCallback[Key] };

function toSent({ to, method, headers, body }: PlannedCallback, record: CallRecord): MutableCallback {
  const { request } = record;
  const has = (name: string): boolean => headers.some((own, i) => i % 2 === 0 && own.toLowerCase() === name);
  const carried = CARRIED.flatMap((name) => {
    const value = request.header(name);
    return value === undefined || has(name) ? [] : [name, value];
  });
  const lane = request.lane === 'main' || has('upsetter-lane') ? [] : ['upsetter-lane', request.lane];
  const text = body === null || typeof body === 'string' ? body : new TextDecoder().decode(body);
  return {
    to,
    method,
    headers: [...headers, ...lane, ...carried, DEPTH, String(depthOf(record) + 1)],
    body: text,
    state: 'waiting',
    tries: [],
  };
}
