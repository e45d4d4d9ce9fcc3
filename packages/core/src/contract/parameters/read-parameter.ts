import type { RequestView } from '../../request/request-view.js';
import type { ParameterStyle } from './parameter-style.js';
import { type SchemaKind, textToValue } from './schema-kind.js';

/** A parameter of an operation, ready to be read from calls. */
export interface ReadableParameter {
  readonly name: string;
  readonly place: 'path' | 'query' | 'header' | 'cookie';
  readonly style: ParameterStyle;
  readonly kind: SchemaKind;
}

/** What a call sends for a parameter, as its schema sees it; undefined: nothing. `pathText`: the text at its place in the path. */
export function readParameterValue(
  parameter: ReadableParameter,
  request: RequestView,
  pathText: string | undefined,
): unknown {
  const { style, kind, place } = parameter;
  if (style.kind === 'deepObject') return readDeep(parameter, request);
  if (place === 'query' && style.isExploded && isMap(kind)) return readMembers(parameter, request);
  const sent = textsOf(parameter, request, pathText);
  if (sent === undefined) return undefined;
  if (style.kind === 'json') return tryJson(sent[0] ?? '');
  if (isList(kind)) return readList(sent, parameter);
  const text = unwrap(sent[0] ?? '', parameter);
  return isMap(kind) ? readPairs(text, parameter) : textToValue(text, kind);
}

/** Several values that stand for themselves, not for the members of a map. */
function isList({ types }: SchemaKind): boolean {
  return types.has('array');
}

function isMap({ types }: SchemaKind): boolean {
  return types.has('object') && !types.has('string');
}

function textsOf(
  { name, place }: ReadableParameter,
  request: RequestView,
  pathText: string | undefined,
): readonly string[] | undefined {
  const sent =
    place === 'path'
      ? pathText
      : place === 'query'
        ? (request.query(name) ?? request.query(`${name}[]`))
        : place === 'header'
          ? request.header(name.toLowerCase())
          : request.cookies()[name];
  if (sent === undefined) return undefined;
  return typeof sent === 'string' ? [sent] : sent;
}

/** `.N7` and `;id=N7` without what their style puts around them. */
function unwrap(text: string, { name, style }: ReadableParameter): string {
  if (style.kind === 'label') return text.replace(/^\./, '');
  if (style.kind === 'matrix') return text.startsWith(`;${name}=`) ? text.slice(name.length + 2) : text;
  return text;
}

function readList(sent: readonly string[], parameter: ReadableParameter): unknown[] {
  const { style, kind, name } = parameter;
  const item: SchemaKind = kind.item ?? { types: new Set(), item: null, members: new Map() };
  const texts = sent.length > 1 || (style.isExploded && style.kind === 'form') ? sent : splitOne(sent[0] ?? '');
  return texts.map((text) => textToValue(text, item));

  function splitOne(text: string): readonly string[] {
    if (style.kind === 'matrix' && style.isExploded) return text.split(`;${name}=`).filter((part) => part !== '');
    const plain = unwrap(text, parameter);
    const separator = style.kind === 'label' && style.isExploded ? '.' : style.separator;
    const trimmed =
      style.kind === 'simple' ? plain.split(separator).map((part) => part.trim()) : plain.split(separator);
    return plain === '' ? [] : trimmed;
  }
}

/** `a,1,b,2` or, exploded, `a=1,b=2`. */
function readPairs(text: string, { style, kind }: ReadableParameter): unknown {
  const separator =
    style.kind === 'label' && style.isExploded
      ? '.'
      : style.kind === 'matrix' && style.isExploded
        ? ';'
        : style.separator;
  const parts = text.split(separator).filter((part) => part !== '');
  const pairs = style.isExploded
    ? parts.map((part) => [part.slice(0, part.indexOf('=')), part.slice(part.indexOf('=') + 1)] as const)
    : parts.flatMap((part, i) => (i % 2 === 0 ? [[part, parts[i + 1] ?? ''] as const] : []));
  return toMap(pairs, kind);
}

/** Each member is a query parameter of its own. */
function readMembers({ kind }: ReadableParameter, request: RequestView): unknown {
  const pairs = [...kind.members.keys()].flatMap((name) => {
    const sent = request.query(name);
    return sent === undefined ? [] : [[name, sent] as const];
  });
  return pairs.length === 0 ? undefined : toMap(pairs, kind);
}

/** `name[key]=value`, and deeper: `name[key][inner]=value`. */
function readDeep({ name, kind }: ReadableParameter, request: RequestView): unknown {
  const root: Record<string, unknown> = {};
  let isSent = false;
  for (const [key, sent] of Object.entries(request.queries())) {
    if (!key.startsWith(`${name}[`) || !key.endsWith(']')) continue;
    isSent = true;
    placeDeep(root, key.slice(name.length + 1, -1).split(']['), sent, kind);
  }
  return isSent ? root : undefined;
}

function placeDeep(
  root: Record<string, unknown>,
  keys: readonly string[],
  sent: string | readonly string[] | undefined,
  kind: SchemaKind,
): void {
  let at = root;
  let own: SchemaKind | undefined = kind;
  for (const key of keys.slice(0, -1)) {
    own = own?.members.get(key);
    const next = Object.hasOwn(at, key) ? at[key] : undefined;
    const child = next !== null && typeof next === 'object' ? (next as Record<string, unknown>) : {};
    define(at, key, child);
    at = child;
  }
  const last = keys.at(-1) ?? '';
  define(at, last, toValue(sent, own?.members.get(last)));
}

function toMap(
  pairs: readonly (readonly [string, string | readonly string[]])[],
  { members }: SchemaKind,
): Record<string, unknown> {
  const map: Record<string, unknown> = {};
  for (const [name, sent] of pairs) define(map, name, toValue(sent, members.get(name)));
  return map;
}

function toValue(sent: string | readonly string[] | undefined, kind: SchemaKind | undefined): unknown {
  if (kind === undefined || sent === undefined) return sent;
  if (!kind.types.has('array')) return typeof sent === 'string' ? textToValue(sent, kind) : sent;
  const item = kind.item;
  const texts = typeof sent === 'string' ? [sent] : sent;
  return item === null ? texts : texts.map((text) => textToValue(text, item));
}

/** Names come from callers: `__proto__` is a name like any other. */
function define(map: Record<string, unknown>, name: string, value: unknown): void {
  Object.defineProperty(map, name, { value, enumerable: true, writable: true, configurable: true });
}

function tryJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}
