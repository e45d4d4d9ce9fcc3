import type { CompiledService } from '../matching/compile-service.js';
import { findOperation } from '../matching/find-operation.js';
import { RequestView } from '../request/request-view.js';
import { commitCall, type Decision } from '../state/commit-call.js';
import { Lanes } from '../state/lane.js';
import type { Exchange } from '../traffic/exchange.js';
import { compareAnswers } from './compare-answers.js';
import { type Heard, readHeard } from './heard.js';
import { eachLeaf } from './leaves.js';
import { traceValues } from './value-flow.js';

/** One exchange that a draft answers otherwise than it was heard. */
export interface FidelityDifference {
  readonly index: number;
  readonly method: string;
  readonly path: string;
  readonly operation: string | null;
  readonly case: string | null;
  /** Where in the answer: `status`, or a path into the body. */
  readonly at: string;
  readonly heard: string;
  readonly given: string;
}

/** How many of a take's exchanges a draft answers as heard, and each that it does not. */
export interface Fidelity {
  readonly exchanges: number;
  readonly asHeard: number;
  readonly differences: readonly FidelityDifference[];
}

/**
 * Plays a session against a compiled draft, call by call through the same steps as real ones, and compares each answer.
 * What an answer made anew (ids, moments, tokens) is compared by its shape and sent in the place of the heard value
 * from then on, as the caller of a real service would.
 */
export function measureFidelity(service: CompiledService, exchanges: readonly Exchange[]): Fidelity {
  const session = exchanges.map(readHeard);
  const flow = traceValues(session);
  const lane = new Lanes(service.definition.seed ?? service.name).get('main');
  const given = new Map<string, string>();
  const differences: FidelityDifference[] = [];
  for (const heard of session) {
    const request = toRequest(heard, given);
    const destination = findOperation(service, request);
    const operation = destination.kind === 'operation' ? destination.operation : null;
    const decision: Decision =
      operation === null
        ? { kind: 'stray', found: null }
        : commitCall(service, operation, request, lane, request.receivedAtMs);
    const difference = compareAnswers(heard, decision, flow, given);
    if (difference === null) continue;
    differences.push({
      index: heard.exchange.index,
      method: heard.exchange.method,
      path: heard.exchange.path,
      operation: operation?.name ?? null,
      case: decision.kind === 'stray' ? null : decision.caseName,
      ...difference,
    });
  }
  return { exchanges: session.length, asHeard: session.length - differences.length, differences };
}

/** The request as a caller would send it who was given other ids and tokens than the one that was heard. */
function toRequest(heard: Heard, given: ReadonlyMap<string, string>): RequestView {
  const { exchange } = heard;
  const path = exchange.path
    .split('/')
    .map((segment, i) => encodeGiven(segment, given.get(i === 0 ? '' : (heard.segments[i - 1] ?? ''))))
    .join('/');
  const query = exchange.query.map(([name, value]) => [name, given.get(value) ?? value]);
  const target = query.length === 0 ? path : `${path}?${new URLSearchParams(query as [string, string][])}`;
  const headers = exchange.requestHeaders.map((value, i) => (i % 2 === 1 ? translateWords(value, given) : value));
  const sent = withHost(headers, exchange.origin);
  const request = new RequestView(`heard-${exchange.index}`, exchange.method, target, sent, exchange.startedAtMs);
  request.scheme = exchange.origin.startsWith('https:') ? 'https' : 'http';
  const body = exchange.requestBody === null ? null : translateBody(exchange.requestBody, heard, given);
  request.body = body === null ? null : new TextEncoder().encode(body);
  return request;
}

/** A relay passes calls on under the real service's name: that is what its answers speak of. */
function withHost(flat: readonly string[], origin: string): string[] {
  const others = flat.filter((_, i) => flat[i - (i % 2)]?.toLowerCase() !== 'host');
  return ['host', new URL(origin).host, ...others];
}

function encodeGiven(segment: string, value: string | undefined): string {
  return value === undefined ? segment : encodeURIComponent(value);
}

/** Words of a text that stand for values that were made anew. */
export function translateWords(text: string, given: ReadonlyMap<string, string>): string {
  if (given.size === 0) return text;
  const whole = given.get(text);
  return whole ?? text.replace(/[A-Za-z0-9][\w.-]*[A-Za-z0-9_]/g, (word) => given.get(word) ?? word);
}

function translateBody(text: string, heard: Heard, given: ReadonlyMap<string, string>): string {
  if (given.size === 0) return text;
  if (heard.sentJson === undefined) return text.replace(/[^&=]+/g, (word) => given.get(decode(word)) ?? word);
  let isTouched = false;
  eachLeaf(heard.sentJson, (value) => {
    isTouched ||= value !== null && given.has(String(value));
  });
  return isTouched
    ? JSON.stringify(heard.sentJson, (_key, value: unknown) => {
        if (typeof value === 'string') return translateWords(value, given);
        const other = typeof value === 'number' ? given.get(String(value)) : undefined;
        return other === undefined ? value : Number(other);
      })
    : text;
}

function decode(word: string): string {
  try {
    return decodeURIComponent(word.replaceAll('+', ' '));
  } catch {
    return word;
  }
}
