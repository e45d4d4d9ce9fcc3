import type { RenderedAnswer } from '../answer/rendered-answer.js';
import { isJsonMap } from '../definition/json-map.js';
import type { Decision } from '../state/commit-call.js';
import { headerOf } from '../traffic/exchange.js';
import { readSetCookie, setCookiesOf } from './credentials.js';
import { pathOf } from './features.js';
import type { Heard } from './heard.js';
import { isOwnCursor } from './list-cursor.js';
import type { ValueFlow } from './value-flow.js';
import { commonShape, isMadeShape, momentForm, shapeOf } from './value-shape.js';

export interface AnswerDifference {
  readonly at: string;
  readonly heard: string;
  readonly given: string;
}

/** The first difference between the answer heard and the one given; null when there is none. `given` learns what was made anew. */
export function compareAnswers(
  heard: Heard,
  decision: Decision,
  flow: ValueFlow,
  given: Map<string, string>,
): AnswerDifference | null {
  const { exchange } = heard;
  if (decision.kind !== 'answered') {
    const what = decision.kind === 'stray' ? 'no case answers' : decision.reason;
    return { at: 'answer', heard: String(exchange.status), given: what };
  }
  const { answer } = decision;
  if (answer.status !== exchange.status)
    return { at: 'status', heard: String(exchange.status), given: String(answer.status) };
  const location = compareLocation(heard, answer, flow, given);
  if (location !== null) return location;
  learnCookies(heard, answer, flow, given);
  learnTag(heard, answer, given);
  if (heard.answerJson === undefined) return compareBytes(heard, answer);
  const json = parse(answer);
  return new Comparison(heard, flow, given).compare(heard.answerJson, json, []);
}

function compareLocation(
  heard: Heard,
  answer: RenderedAnswer,
  flow: ValueFlow,
  given: Map<string, string>,
): AnswerDifference | null {
  if (heard.location === null) return null;
  const own = headerOf(answer.headers, 'location') ?? '';
  const a = heard.location.split('/');
  const b = own.split('/');
  const comparison = new Comparison(heard, flow, given);
  const isSame = a.length === b.length && a.every((part, i) => comparison.compare(part, b[i], []) === null);
  return isSame ? null : { at: 'header location', heard: heard.location, given: own };
}

/** Cookies are not compared; a caller sends back what it was given. */
function learnCookies(heard: Heard, { headers }: RenderedAnswer, flow: ValueFlow, given: Map<string, string>): void {
  const own = headers.flatMap((name, i) =>
    i % 2 === 0 && name.toLowerCase() === 'set-cookie' ? (readSetCookie(headers[i + 1] ?? '') ?? []) : [],
  );
  for (const { name, value } of setCookiesOf(heard)) {
    const other = own.find((cookie) => cookie.name === name);
    if (other !== undefined && other.value !== value && flow.isFresh(value, heard.position))
      given.set(value, other.value);
  }
}

/** Entity tags are not compared either: a caller asks again with the one it was given. */
function learnTag({ exchange }: Heard, { headers }: RenderedAnswer, given: Map<string, string>): void {
  const heard = headerOf(exchange.responseHeaders, 'etag');
  const own = headerOf(headers, 'etag');
  if (heard !== null && own !== null && heard !== own) given.set(heard, own);
}

function compareBytes({ exchange }: Heard, answer: RenderedAnswer): AnswerDifference | null {
  const { body } = exchange;
  const isEmpty = answer.body === null || answer.body.length === 0;
  if (body === null) return isEmpty ? null : { at: 'body', heard: 'none', given: shorten(textOf(answer)) };
  const own = body.kind === 'text' ? textOf(answer) : toBase64(answer);
  return own === body.content ? null : { at: 'body', heard: shorten(body.content), given: shorten(own) };
}

/** What a pattern draws: of the same length, it may by chance look like a word or a number. */
const DRAWN = /^[\w.~+/=-]+$/;

/** Compares JSON values; what the heard answer made on the spot needs only to have its shape. */
class Comparison {
  readonly #heard: Heard;
  readonly #flow: ValueFlow;
  readonly #given: Map<string, string>;

  constructor(heard: Heard, flow: ValueFlow, given: Map<string, string>) {
    this.#heard = heard;
    this.#flow = flow;
    this.#given = given;
  }

  compare(a: unknown, b: unknown, steps: readonly (string | number)[]): AnswerDifference | null {
    if (Array.isArray(a) && Array.isArray(b)) {
      if (a.length !== b.length) return difference([...steps, 'length'], a.length, b.length);
      for (const [i, item] of a.entries()) {
        const found = this.compare(item, b[i], [...steps, i]);
        if (found !== null) return found;
      }
      return null;
    }
    if (isJsonMap(a) && isJsonMap(b)) {
      for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) {
        const found = this.compare(a[key], b[key], [...steps, key]);
        if (found !== null) return found;
      }
      return null;
    }
    if (this.#isSameScalar(a, b)) return null;
    const found = difference(steps, a, b);
    // The heard value was given otherwise before: that is what its caller would look for.
    const known = a === null || a === undefined ? undefined : this.#given.get(String(a));
    return known === undefined
      ? found
      : { ...found, heard: `${found.heard} (answered as ${JSON.stringify(known)} before)` };
  }

  #isSameScalar(a: unknown, b: unknown): boolean {
    const known = a === null || a === undefined ? undefined : this.#given.get(String(a));
    if (known !== undefined && typeof a === 'string') return known === String(b);
    if (a === b) return true;
    if (a === undefined || b === undefined || typeof a !== typeof b || a === null || b === null) return false;
    if (known !== undefined) return known === String(b);
    if (typeof a === 'string' && typeof b === 'string' && (this.#isSameText(a, b) || this.#isCursor(a, b))) return true;
    const isDrawn = typeof b === 'string' && String(a).length === b.length && DRAWN.test(b);
    const shape = commonShape([a, b]) ?? (isDrawn ? shapeOf(a) : null);
    if (shape === null) return false;
    const isMade = this.#flow.isFresh(a, this.#heard.position) || this.#flow.madeAt(a) !== null;
    const moment = momentForm(a);
    if (moment !== null && moment === momentForm(b) && isMade) {
      this.#learn(a, b);
      return true;
    }
    const isId = (shape === 'number' || shape === 'code') && isMade && this.#flow.isUsedAfter(a, this.#heard.position);
    if (!(isMade && isMadeShape(shape)) && !isId) return false;
    this.#learn(a, b);
    return true;
  }

  /** An opaque word that leads to the next page, and ours in its place. */
  #isCursor(a: string, b: string): boolean {
    if (!isOwnCursor(b) || !this.#flow.isUsedAfter(a, this.#heard.position)) return false;
    this.#learn(a, b);
    return true;
  }

  #learn(a: unknown, b: unknown): void {
    this.#given.set(String(a), String(b));
  }

  /** The same words, some of them made anew. */
  #isSameText(a: string, b: string): boolean {
    const words = a.split(/([^\w-]+)/);
    const others = b.split(/([^\w-]+)/);
    return (
      words.length > 1 &&
      words.length === others.length &&
      words.every(
        (word, i) => word === others[i] || this.#given.get(word) === others[i] || this.#isCursor(word, others[i] ?? ''),
      )
    );
  }
}

function difference(steps: readonly (string | number)[], a: unknown, b: unknown): AnswerDifference {
  return {
    at: `$${pathOf(steps)}`,
    heard: shorten(JSON.stringify(a) ?? 'absent'),
    given: shorten(JSON.stringify(b) ?? 'absent'),
  };
}

function parse(answer: RenderedAnswer): unknown {
  try {
    return JSON.parse(textOf(answer));
  } catch {
    return undefined;
  }
}

function textOf({ body }: RenderedAnswer): string {
  if (body === null) return '';
  return typeof body === 'string' ? body : new TextDecoder().decode(body);
}

function toBase64({ body }: RenderedAnswer): string {
  if (body === null) return '';
  const bytes = typeof body === 'string' ? new TextEncoder().encode(body) : body;
  let text = '';
  for (const byte of bytes) text += String.fromCharCode(byte);
  return btoa(text);
}

function shorten(text: string): string {
  return text.length > 200 ? `${text.slice(0, 200)}...` : text;
}
