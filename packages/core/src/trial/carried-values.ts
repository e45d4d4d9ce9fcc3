import { isXml } from '../contract/open-contract.js';
import { isJsonMap } from '../definition/json-map.js';
import { decodeSegment } from '../matching/path-template.js';
import { headerOf } from '../traffic/exchange.js';
import { MASK, maskHeaders } from '../traffic/mask.js';
import { changeXml } from '../xml/change-xml.js';
import { parseXml } from '../xml/parse-xml.js';
import { LinkedValues } from './linked-values.js';
import type { TrialAnswer, TrialRequest } from './trial-result.js';
import { shapeOfPath, type TrialStep } from './trial-step.js';

const TOKEN_MEMBER = /^(access_?)?token$|^jwt$|^session_?token$/i;
const CREATED = 201;

/** What real answers gave that later calls need: ids of things that were made, by the path they were made at, and a token. */
export class CarriedValues {
  readonly #ids = new Map<string, string>();
  /** Ids and the like, by the names that answers have for them. */
  readonly #named = new Map<string, string>();
  readonly #linked = new LinkedValues();
  #token: string | null = null;

  /** Learns from an answer to a call that was sent. */
  learn(step: TrialStep, request: TrialRequest, answer: TrialAnswer): void {
    const { address } = step;
    this.#linked.learn(step, request, answer);
    const json = tryJson(answer.body);
    if (answer.status < 300) for (const [name, value] of namedValues(json, answer.body)) this.#named.set(name, value);
    if (!isJsonMap(json) && answer.status !== CREATED) return;
    for (const [name, value] of Object.entries(isJsonMap(json) ? json : {}))
      if (TOKEN_MEMBER.test(name) && typeof value === 'string') this.#token = value;
    const id = address.method === 'POST' ? idOf(json, answer) : null;
    if (id !== null && answer.status < 300) this.#ids.set(shapeOfPath(address, address.segments.length), id);
  }

  /** Why a call makes no sense now; null when it does. */
  missing({ carries }: TrialStep): string | null {
    const lost = carries.find(({ madeAt }) => !this.#ids.has(madeAt));
    return lost === undefined ? null : `nothing was made at ${lost.madeAt.replaceAll('=', '').replace(/^/, '/')}`;
  }

  /** The paths of the things that were made, and the token, in the place of what was made up. */
  fill(step: TrialStep): TrialRequest {
    const { carries, call, kind, carriesBody } = step;
    const [path = '', search] = call.target.split('?', 2);
    const texts = path.slice(1).split('/');
    for (const { segment, madeAt } of carries) {
      const id = this.#ids.get(madeAt);
      if (id !== undefined) texts[segment] = encodeURIComponent(id);
    }
    const query = new URLSearchParams(search);
    const isChanged = this.#linked.fill(step, texts, query);
    const text = call.body === null ? null : new TextDecoder().decode(call.body);
    const body = carriesBody && text !== null ? this.#fillBody(text) : text;
    const asked = isChanged ? query.toString() : (search ?? '');
    const target = `/${texts.join('/')}${asked === '' ? '' : `?${asked}`}`;
    return { method: call.method, target, headers: this.#withToken(call.headers, kind), body };
  }

  /** What the body names as an answer named it is that. */
  #fillBody(text: string): string {
    const json = tryJson(text);
    if (isJsonMap(json)) {
      const own = Object.entries(json).map(([name, value]) => [name, this.#named.get(name) ?? value]);
      return JSON.stringify(Object.fromEntries(own));
    }
    let xml = text;
    if (isXml(text))
      for (const [name, value] of this.#named) xml = changeXml(xml, `//*[local-name() = '${name}']`, {}, value);
    return xml;
  }

  /** An answer as it may be kept: neither secret headers nor the token are in it. */
  masked({ status, headers, body }: TrialAnswer): TrialAnswer {
    const text = this.#token === null ? body : (body?.replaceAll(this.#token, MASK) ?? null);
    return { status, headers: [...maskHeaders(headers)], body: text };
  }

  /** A credential that was made up gives way to one that was given. */
  #withToken(headers: readonly string[], kind: TrialStep['kind']): string[] {
    if (this.#token === null) return [...headers];
    const at = headers.findIndex((name, i) => i % 2 === 0 && name.toLowerCase() === 'authorization');
    if (at >= 0) return headers.map((text, i) => (i === at + 1 ? `Bearer ${this.#token}` : text));
    return kind === 'case' ? [...headers] : [...headers, 'authorization', `Bearer ${this.#token}`];
  }
}

const ID_NAME = /^(id|.*(Id|_id|Ref|Reference|Number|Key|Code))$/;

/** Members and elements that name something: ids, references, numbers. */
function namedValues(json: unknown, body: string | null): (readonly [string, string])[] {
  if (isJsonMap(json))
    return Object.entries(json).flatMap(([name, value]) =>
      ID_NAME.test(name) && (typeof value === 'string' || typeof value === 'number') ? [[name, String(value)]] : [],
    );
  const parsed = body === null || !isXml(body) ? null : parseXml(body);
  if (parsed === null || parsed.kind === 'broken') return [];
  return parsed.document
    .getElementsByTagName('*')
    .flatMap((element) =>
      element.firstElementChild === null && ID_NAME.test(element.localName)
        ? [[element.localName, element.textContent ?? ''] as const]
        : [],
    );
}

/** By `Location`, else by the member `id`, else by the first that ends so. */
function idOf(json: unknown, { headers }: TrialAnswer): string | null {
  const location = headerOf(headers, 'location');
  const last = location
    ?.replace(/[?#].*$/, '')
    .replace(/\/$/, '')
    .split('/')
    .at(-1);
  if (last !== undefined && last !== '') return decodeSegment(last);
  if (!isJsonMap(json)) return null;
  const name = Object.keys(json).find((key) => key === 'id') ?? Object.keys(json).find((key) => /id$/i.test(key));
  const value = name === undefined ? null : json[name];
  return typeof value === 'string' || typeof value === 'number' ? String(value) : null;
}

function tryJson(text: string | null): unknown {
  try {
    return text === null ? null : JSON.parse(text);
  } catch {
    return null;
  }
}
