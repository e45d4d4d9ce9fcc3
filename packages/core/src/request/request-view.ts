import { parse } from 'fast-querystring';
import { parseExact } from '../json/exact-json.js';
import { type ReadEnvelope, readEnvelope } from '../soap/read-envelope.js';
import type { SoapVersion } from '../soap/soap-version.js';
import { type ParsedXml, parseXml } from '../xml/parse-xml.js';
import { readMultipart } from './read-multipart.js';
import { shareTexts } from './share-texts.js';

/** Text of one query parameter; a list when it was repeated; undefined when it is not there. */
export type QueryValue = string | readonly string[] | undefined;

/** What `json` reads as when the body is no JSON. */
export const NO_JSON: unique symbol = Symbol('no json');

/**
 * One received request, as conditions and expressions see it. Made once for each call with every field set in one order
 * (the hot path relies on one shape); what costs parsing is parsed when first asked for.
 */
export class RequestView {
  readonly id: string;
  readonly method: string;
  /** Path and query as received. */
  target: string;
  /** Path as received, percent-encodings kept. */
  path: string;
  /** As received, flat: name, value, name, value. */
  rawHeaders: readonly string[];
  readonly receivedAtMs: number;
  /** How the call came: `http`, unless its listener says otherwise. */
  scheme: 'http' | 'https';
  lane: string;
  /** The address the call came from; null: it is not known (any more). */
  clientAddress: string | null;
  /** The common name of the certificate that the caller showed, signed by whom the mock trusts; null: none. */
  clientCertificate: string | null;
  /** Names and decoded values of the operation's path parameters, set by matching. */
  paramNames: readonly string[];
  paramValues: readonly string[];
  #body: Uint8Array | null;
  /** The body of a call that is over, where it is short and ASCII: a text takes less than bytes of their own. */
  #shortBody: string | null;
  #query: Record<string, QueryValue> | null;
  #text: string | null;
  #json: unknown;
  #form: Record<string, QueryValue> | null;
  #xml: ParsedXml | null;
  #envelope: ReadEnvelope | null;

  constructor(id: string, method: string, target: string, rawHeaders: readonly string[], receivedAtMs: number) {
    const mark = target.indexOf('?');
    this.id = id;
    this.method = method;
    this.target = target;
    this.path = mark < 0 ? target : target.slice(0, mark);
    this.rawHeaders = rawHeaders;
    this.receivedAtMs = receivedAtMs;
    this.scheme = 'http';
    this.lane = 'main';
    this.clientAddress = null;
    this.clientCertificate = null;
    this.paramNames = NO_NAMES;
    this.paramValues = NO_NAMES;
    this.#body = null;
    this.#shortBody = null;
    this.#query = null;
    this.#text = null;
    this.#json = UNREAD;
    this.#form = null;
    this.#xml = null;
    this.#envelope = null;
  }

  /** As received, or unpacked; null: there is none (any more). */
  get body(): Uint8Array | null {
    return this.#shortBody === null ? this.#body : ENCODER.encode(this.#shortBody);
  }

  set body(body: Uint8Array | null) {
    this.#body = body;
    this.#shortBody = null;
    this.#forgetBody();
  }

  /** How many bytes the body has; asking for it costs nothing. */
  get bodyBytes(): number {
    return this.#shortBody?.length ?? this.#body?.byteLength ?? 0;
  }

  param(name: string): string | undefined {
    const at = this.paramNames.indexOf(name);
    return at < 0 ? undefined : this.paramValues[at];
  }

  query(name: string): QueryValue {
    return this.queries()[name];
  }

  queries(): Readonly<Record<string, QueryValue>> {
    this.#query ??= parseQuery(this.target);
    return this.#query;
  }

  /** A header by its name in lower case; repeated ones are joined (RFC 9110, 5.3; cookies by `; `, RFC 9113, 8.2.3). */
  header(name: string): string | undefined {
    let found: string | undefined;
    for (let i = 0; i < this.rawHeaders.length; i += 2) {
      const at = this.rawHeaders[i] ?? '';
      if (at.length !== name.length || at.toLowerCase() !== name) continue;
      const value = this.rawHeaders[i + 1] ?? '';
      found = found === undefined ? value : `${found}${name === 'cookie' ? '; ' : ', '}${value}`;
    }
    return found;
  }

  /** Where the caller sent it, as it calls us: what absolute links begin with. */
  origin(): string {
    return `${this.scheme}://${this.header('host') ?? 'localhost'}`;
  }

  /** All headers, names in lower case. */
  headers(): Record<string, string> {
    const names = new Set(this.rawHeaders.filter((_, i) => i % 2 === 0).map((name) => name.toLowerCase()));
    return Object.fromEntries([...names].map((name) => [name, this.header(name) ?? '']));
  }

  /** Lets go of what was parsed, once the call is answered: a kept call is read seldom, and then parsed again. */
  forget(): void {
    this.paramNames = NO_NAMES;
    this.paramValues = NO_NAMES;
    this.#query = null;
    if (this.#body !== null && this.#text !== null && isSame(this.#body, this.#text)) {
      this.#shortBody = this.#text;
      this.#body = null;
    }
    this.#forgetBody();
  }

  #forgetBody(): void {
    this.#text = null;
    this.#json = UNREAD;
    this.#form = null;
    this.#xml = null;
    this.#envelope = null;
  }

  /** Takes over the texts that it has alike with another request: callers send the same headers again and again. */
  share(other: RequestView): void {
    this.rawHeaders = shareTexts(this.rawHeaders, other.rawHeaders);
    if (this.target !== other.target) return;
    this.target = other.target;
    this.path = other.path;
  }

  text(): string {
    this.#text ??= this.#shortBody ?? this.#decode();
    return this.#text;
  }

  #decode(): string {
    return this.#body === null ? '' : decoderOf(this.header('content-type')).decode(this.#body);
  }

  /** The body as JSON, or `NO_JSON`; whole numbers beyond 2^53 as `bigint`. Whatever the content type says: a test client that forgets it still matches. */
  json(): unknown {
    if (this.#json === UNREAD) this.#json = parseJson(this.text());
    return this.#json;
  }

  /** The body as XML, whatever the content type says. */
  xml(): ParsedXml {
    this.#xml ??= parseXml(this.text());
    return this.#xml;
  }

  /** The body as a SOAP envelope. */
  envelope(): ReadEnvelope {
    this.#envelope ??= readEnvelope(this.xml());
    return this.#envelope;
  }

  /** The version of SOAP that the caller speaks: by its envelope, else by its content type. */
  soapVersion(): SoapVersion {
    const envelope = this.envelope();
    if (envelope.kind === 'envelope') return envelope.version;
    return SOAP_12_TYPE.test(this.header('content-type') ?? '') ? '1.2' : '1.1';
  }

  /** What the caller means to do: the header SOAPAction of SOAP 1.1, the parameter `action` of the type in 1.2; empty: nothing is said. */
  soapAction(): string {
    const said = this.header('soapaction') ?? ACTION.exec(this.header('content-type') ?? '')?.[1] ?? '';
    return said.trim().replace(/^"(.*)"$/, '$1');
  }

  /** The fields of a form (application/x-www-form-urlencoded); none when the body is of another type. */
  form(): Readonly<Record<string, QueryValue>> {
    this.#form ??= FORM_TYPE.test(this.header('content-type') ?? '')
      ? (parse(this.text()) as Record<string, QueryValue>)
      : EMPTY_QUERY;
    return this.#form;
  }

  /** The texts of the parts of this name in a multipart form. */
  partTexts(name: string): readonly string[] {
    const type = this.header('content-type') ?? '';
    const { body } = this;
    if (body === null || !MULTIPART_TYPE.test(type)) return NO_NAMES;
    const parts = readMultipart(type, body) ?? [];
    return parts.filter((part) => part.name === name).map((part) => DECODER.decode(part.content));
  }

  /** The cookies sent (RFC 6265, 5.4), values as they stand; the first of a name counts. */
  cookies(): Readonly<Record<string, string>> {
    const cookies: Record<string, string> = Object.create(null);
    for (const pair of (this.header('cookie') ?? '').split(';')) {
      const equals = pair.indexOf('=');
      const name = pair.slice(0, equals).trim();
      if (equals > 0 && cookies[name] === undefined) cookies[name] = pair.slice(equals + 1).trim();
    }
    return cookies;
  }
}

const FORM_TYPE = /^application\/x-www-form-urlencoded\b/i;
const MULTIPART_TYPE = /^multipart\//i;
const SOAP_12_TYPE = /^application\/soap\+xml\b/i;
const ACTION = /;\s*action=("[^"]*"|[^;]*)/i;
const UNREAD = Symbol('unread');
const NO_NAMES: readonly string[] = [];
const DECODER = new TextDecoder();
const ENCODER = new TextEncoder();
/** Beyond this, bytes of their own do not matter. */
const SHORT_BODY = 2_000;
const ASCII = /^[\0-\x7f]*$/;

/** Whether the text alone says what the bytes are, whatever charset it was read by. */
function isSame(body: Uint8Array, text: string): boolean {
  return text.length === body.byteLength && text.length <= SHORT_BODY && ASCII.test(text);
}
const CHARSET = /;\s*charset=\s*"?([^\s";]+)/i;

let lastType: string | undefined;
let lastDecoder = DECODER;

/** The decoder of a content type; one call after the other comes with the same. */
function decoderOf(contentType: string | undefined): TextDecoder {
  if (contentType !== lastType) {
    lastDecoder = findDecoder(contentType);
    lastType = contentType;
  }
  return lastDecoder;
}

/** By the charset that the content type names; UTF-8 where it names none, or one that nobody knows. */
function findDecoder(contentType: string | undefined): TextDecoder {
  const charset = contentType === undefined ? undefined : CHARSET.exec(contentType)?.[1];
  if (charset === undefined || /^utf-?8$/i.test(charset)) return DECODER;
  try {
    return new TextDecoder(charset);
  } catch {
    return DECODER;
  }
}

function parseJson(text: string): unknown {
  if (text.length === 0) return NO_JSON;
  try {
    return parseExact(text);
  } catch {
    return NO_JSON;
  }
}

function parseQuery(target: string): Record<string, QueryValue> {
  const mark = target.indexOf('?');
  return mark < 0 ? EMPTY_QUERY : (parse(target.slice(mark + 1)) as Record<string, QueryValue>);
}

const EMPTY_QUERY: Record<string, QueryValue> = Object.freeze(Object.create(null));
