import { parse } from 'fast-querystring';
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
  /** Whether the method is one that may change something (RFC 9110, 9.2.1: those that are not safe). */
  readonly isWrite: boolean;
  readonly isSuccess: boolean;
  /** Who made the call, where the session shows it; null when it does not. */
  readonly caller: string | null;
}

const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);

export function readHeard(exchange: Exchange, position: number): Heard {
  return {
    exchange,
    position,
    atMs: exchange.startedAtMs,
    segments: exchange.path.slice(1).split('/').map(decodeSegment),
    query: firstOfEach(exchange.query),
    form: readForm(exchange),
    sentJson: parseJson(exchange.requestBody),
    answerJson: exchange.body?.kind === 'text' ? parseJson(exchange.body.content) : undefined,
    location: headerOf(exchange.responseHeaders, 'location'),
    isWrite: !SAFE.has(exchange.method),
    isSuccess: exchange.status < 400,
    caller: null,
  };
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
