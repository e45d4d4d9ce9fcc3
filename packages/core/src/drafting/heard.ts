import { parse } from 'fast-querystring';
import { isJsonMap } from '../definition/json-map.js';
import { decodeSegment } from '../matching/path-template.js';
import { type Exchange, headerOf } from '../traffic/exchange.js';

/** An exchange read for drafting: everything that is looked at more than once, parsed once. */
export interface Heard {
  readonly exchange: Exchange;
  /** Place in the order of the session, from 0. */
  readonly position: number;
  readonly atMs: number;
  readonly segments: readonly string[];
  readonly query: ReadonlyMap<string, string>;
  readonly form: ReadonlyMap<string, string>;
  /** Undefined: no JSON. */
  readonly sentJson: unknown;
  readonly answerJson: unknown;
  readonly location: string | null;
  /** Whether the call may change something: its method is not safe (RFC 9110, 9.2.1), and it does not only ask by a body. */
  readonly isWrite: boolean;
  readonly isSuccess: boolean;
  /** Who made the call, where the session shows it; null when it does not. */
  readonly caller: string | null;
}

const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);

export function readHeard(exchange: Exchange, position: number): Heard {
  const segments = exchange.path.slice(1).split('/').map(decodeSegment);
  const sentJson = parseJson(exchange.requestBody);
  return {
    exchange,
    position,
    atMs: exchange.startedAtMs,
    segments,
    query: firstOfEach(exchange.query),
    form: readForm(exchange),
    sentJson,
    answerJson: exchange.body?.kind === 'text' ? parseJson(exchange.body.content) : undefined,
    location: headerOf(exchange.responseHeaders, 'location'),
    isWrite: !SAFE.has(exchange.method) && !isQuestion(exchange, segments, sentJson),
    isSuccess: exchange.status < 400,
    caller: null,
  };
}

/** Last words of paths that are posted to only because the question is long. */
const QUESTION = /(^|[_:-])(search|query|find|lookup|filter|count)$/i;

function isQuestion({ method, status }: Exchange, segments: readonly string[], sentJson: unknown): boolean {
  const last = segments.at(-1) ?? '';
  if (method !== 'POST' || status === 201) return false;
  if (/^graphql$/i.test(last)) return isJsonMap(sentJson) && /^\s*(query\b|\{)/.test(String(sentJson['query']));
  return QUESTION.test(last);
}

function firstOfEach(pairs: Exchange['query']): ReadonlyMap<string, string> {
  const values = new Map<string, string>();
  for (const [name, value] of pairs) if (!values.has(name)) values.set(name, value);
  return values;
}

function readForm(exchange: Exchange): ReadonlyMap<string, string> {
  const type = headerOf(exchange.requestHeaders, 'content-type') ?? '';
  if (exchange.requestBody === null || !/^application\/x-www-form-urlencoded\b/i.test(type)) return NO_FIELDS;
  const fields = Object.entries(parse(exchange.requestBody) as Record<string, string | string[]>);
  return new Map(fields.map(([name, value]) => [name, Array.isArray(value) ? (value[0] ?? '') : value]));
}

const NO_FIELDS: ReadonlyMap<string, string> = new Map();

function parseJson(text: string | null): unknown {
  if (text === null || text === '') return undefined;
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
