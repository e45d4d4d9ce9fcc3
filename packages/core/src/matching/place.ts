import { compile, type JSONPathQuery } from 'json-p3';
import { compileText, type TextScope } from '../answer/compile-text.js';
import { findNearest } from '../definition/nearest.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type Evaluate, type Frame, fail } from '../expression/frame.js';
import { readMember, toText } from '../expression/value.js';
import { NO_JSON, type RequestView } from '../request/request-view.js';
import { compileXPath, type Namespaces } from '../xml/compile-xpath.js';

/** Where a condition looks. `single` gives one value or `ABSENT`; `many` gives each value that stands there. */
export interface Place {
  readonly text: string;
  readonly domain: 'text' | 'json';
  /** The frame is given where `needsFrame` asks for it. */
  readonly read: (request: RequestView, frame: Frame | null) => unknown;
  /** Whether it looks beyond the call itself, at state or rows: what stood there is known at the time of the call only. */
  readonly needsFrame: boolean;
  /** Whether an array that is read means several values (a repeated parameter, a JSONPath that is not singular). */
  readonly isMany: boolean;
  /** The header this place reads, when it reads one: its value may be a secret. */
  readonly header: string | null;
}

/** Read from a place where nothing stands. */
export const ABSENT: unique symbol = Symbol('absent');

export type ParsedPlace =
  | { readonly kind: 'place'; readonly place: Place }
  | { readonly kind: 'refused'; readonly message: string };

type PlaceParser = (name: string, text: string, scope: PlaceScope) => ParsedPlace;

/** The path parameters there are; null when any may come. */
export type PathNames = readonly string[] | null;

/** What places may name. `text`: how expressions in a place (the key of a keyed state) are compiled; null where state and rows cannot be asked. */
export interface PlaceScope {
  readonly path: PathNames;
  readonly text: TextScope | null;
  readonly namespaces: Namespaces;
  readonly at: readonly PathKey[];
}

const PARSERS: Readonly<Record<string, PlaceParser>> = {
  method: (name, text) =>
    name === '' ? place(text, 'text', (request) => request.method) : refused('`method` takes no name'),
  path: parsePathPlace,
  query: (name, text) =>
    name === ''
      ? refused('`query` needs a name: query port')
      : place(text, 'text', (request) => request.query(name) ?? ABSENT, true),
  header: parseHeaderPlace,
  cookie: (name, text) =>
    name === ''
      ? refused('`cookie` needs a name: cookie session')
      : place(text, 'text', (request) => request.cookies()[name] ?? ABSENT),
  form: (name, text) =>
    name === ''
      ? refused('`form` needs a field: form vessel')
      : place(text, 'text', (request) => request.form()[name] ?? ABSENT, true),
  part: (name, text) =>
    name === ''
      ? refused('`part` needs a name: part manifest')
      : place(text, 'text', (request) => request.partTexts(name), true),
  body: (name, text) =>
    name === ''
      ? place(text, 'text', (request) => (request.text() === '' ? ABSENT : request.text()))
      : refused('`body` takes no name'),
  lane: (name, text) =>
    name === '' ? place(text, 'text', (request) => request.lane) : refused('`lane` takes no name'),
  client: parseClientPlace,
  json: parseJsonPlace,
  xml: parseXmlPlace,
  state: parseStatePlace,
  row: parseRowPlace,
};

/** A key of `when`, such as `path berthId` or `json $.vessel.imo`, as a reader of requests. */
export function parsePlace(text: string, scope: PlaceScope): ParsedPlace {
  const space = text.search(/\s/);
  const kind = space < 0 ? text : text.slice(0, space);
  const name = space < 0 ? '' : text.slice(space).trim();
  const parse = Object.hasOwn(PARSERS, kind) ? PARSERS[kind] : undefined;
  if (parse !== undefined) return parse(name, text, scope);
  const nearest = findNearest(kind, Object.keys(PARSERS));
  const places =
    'a place is method, path NAME, query NAME, header NAME, cookie NAME, form FIELD, part NAME, body, json JSONPATH, xml XPATH, lane, client address, client certificate, state NAME or row FIELD';
  return refused(
    nearest === null ? `\`${kind}\` is no place; ${places}` : `\`${kind}\` is no place; did you mean \`${nearest}\`?`,
  );
}

function parsePathPlace(name: string, text: string, { path: pathNames }: PlaceScope): ParsedPlace {
  if (name === '') return refused('`path` needs a name: path berthId');
  if (pathNames === null || pathNames.includes(name))
    return place(text, 'text', (request) => request.param(name) ?? ABSENT);
  if (pathNames.length === 0)
    return refused(`the path of this operation has no parameters, so there is no \`${text}\``);
  const nearest = findNearest(name, pathNames);
  return refused(
    `the path has no parameter \`${name}\`; ${nearest === null ? `it has ${pathNames.join(', ')}` : `did you mean \`${nearest}\`?`}`,
  );
}

function parseHeaderPlace(name: string, text: string): ParsedPlace {
  if (name === '') return refused('`header` needs a name: header accept');
  const lower = name.toLowerCase();
  return {
    kind: 'place',
    place: {
      text,
      domain: 'text',
      read: (request) => request.header(lower) ?? ABSENT,
      needsFrame: false,
      isMany: false,
      header: lower,
    },
  };
}

/** Who calls. What is found is kept with the call: later, nobody can be asked. */
function parseClientPlace(name: string, text: string): ParsedPlace {
  const read: Place['read'] | null =
    name === 'address'
      ? (request) => request.clientAddress ?? ABSENT
      : name === 'certificate'
        ? (request) => request.clientCertificate ?? ABSENT
        : null;
  if (read === null) return refused('`client` is followed by address or certificate: client certificate');
  const { place: own } = place(text, 'text', read);
  return { kind: 'place', place: { ...own, needsFrame: true } };
}

function parseJsonPlace(path: string, text: string): ParsedPlace {
  let query: JSONPathQuery;
  try {
    query = compile(path === '' ? '$' : path);
  } catch (error) {
    return refused(`not a JSONPath (RFC 9535): ${(error as Error).message}`);
  }
  const steps = singularSteps(query);
  if (steps !== null) return place(text, 'json', (request) => walk(request.json(), steps));
  return place(text, 'json', (request) => queryAll(query, request.json()), true);
}

/** The names and indexes of a singular query (RFC 9535, 2.3.5.1); null when it can select several nodes. */
function singularSteps(query: JSONPathQuery): readonly (string | number)[] | null {
  if (!query.singularQuery()) return null;
  return query.segments.map((segment) => {
    const selector = segment.selectors[0] as unknown as { name?: string; index?: number };
    return selector.name ?? selector.index ?? 0;
  });
}

function walk(value: unknown, steps: readonly (string | number)[]): unknown {
  let at: unknown = value === NO_JSON ? ABSENT : value;
  for (const step of steps) {
    if (at === null || typeof at !== 'object') return ABSENT;
    if (typeof step === 'string') {
      if (Array.isArray(at) || !Object.hasOwn(at, step)) return ABSENT;
      at = (at as Record<string, unknown>)[step];
    } else {
      const item = Array.isArray(at) ? at.at(step) : undefined;
      if (item === undefined) return ABSENT;
      at = item;
    }
  }
  return at;
}

function queryAll(query: JSONPathQuery, json: unknown): readonly unknown[] {
  return json === NO_JSON ? [] : query.query(json as never).values();
}

/** What an XPath selects is read as text. */
function parseXmlPlace(path: string, text: string, { namespaces }: PlaceScope): ParsedPlace {
  const compiled = compileXPath(path, namespaces);
  if (compiled.kind === 'refused') return refused(compiled.message);
  const { select, isSingle } = compiled;
  const readAll = (request: RequestView): readonly string[] => {
    const parsed = request.xml();
    return parsed.kind === 'document' ? select(parsed.document) : [];
  };
  if (isSingle) return place(text, 'text', (request) => readAll(request)[0] ?? ABSENT);
  return place(text, 'text', readAll, true);
}

const STATE = /^([A-Za-z_]\w*)(?:\[(.*)\])?$/s;

/** `state pilot`, or `state held[KEY]` where KEY is a text that may hold an expression. */
function parseStatePlace(name: string, text: string, scope: PlaceScope): ParsedPlace {
  if (scope.text === null) return refused('`state` cannot be asked here yet');
  const match = STATE.exec(name);
  if (match === null) return refused('`state` needs a name: state pilot, or state held[KEY]');
  const [, stateName = '', key] = match;
  const declared = scope.text.names.state;
  if (!declared.includes(stateName)) {
    const nearest = findNearest(stateName, declared);
    const hint = nearest === null ? 'declare it under `state` with its starting value' : `did you mean \`${nearest}\`?`;
    return refused(`the state \`${stateName}\` is not declared; ${hint}`);
  }
  const readKey = key === undefined ? null : compileKey(key, scope.text, scope.at);
  return statePlace(text, (frame) => {
    const { data } = frame.lane;
    const value =
      readKey === null
        ? data.readState(stateName, frame.start)
        : data.readKeyed(stateName, toText(readKey(frame)), frame.start);
    return value ?? ABSENT;
  });
}

function compileKey(key: string, scope: TextScope, at: readonly PathKey[]): Evaluate {
  const compiled = compileText(key, at, scope);
  return compiled.kind === 'constant' ? () => compiled.text : compiled.evaluate;
}

/** `row` is the row the operation picked, `row FIELD` a field of it. */
function parseRowPlace(name: string, text: string, scope: PlaceScope): ParsedPlace {
  if (scope.text === null) return refused('`row` cannot be asked here yet');
  if (!scope.text.names.row) return refused('this operation picks no row: give it `row: { of: ..., where: ... }`');
  const steps = name === '' ? [] : name.split('.');
  return statePlace(text, (frame) => steps.reduce(readMember, frame.row as unknown) ?? ABSENT);
}

function statePlace(text: string, read: (frame: Frame) => unknown): ParsedPlace {
  const readFrame: Place['read'] = (_request, frame) =>
    frame === null ? fail(`${text} is not known here`) : read(frame);
  return {
    kind: 'place',
    place: { text, domain: 'json', read: readFrame, needsFrame: true, isMany: false, header: null },
  };
}

function place(
  text: string,
  domain: Place['domain'],
  read: Place['read'],
  isMany = false,
): Extract<ParsedPlace, { kind: 'place' }> {
  return { kind: 'place', place: { text, domain, read, needsFrame: false, isMany, header: null } };
}

function refused(message: string): ParsedPlace {
  return { kind: 'refused', message };
}
