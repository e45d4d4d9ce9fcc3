import { type Answer, BODY_FORMS } from '../definition/answer.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type Frame, fail } from '../expression/frame.js';
import { toText } from '../expression/value.js';
import { compileJson } from './compile-json.js';
import { compileMarkup } from './compile-markup.js';
import { compileSoap, type SoapHead } from './compile-soap.js';
import { type CompiledText, compileText, type TextScope } from './compile-text.js';
import { serveEntityTag } from './entity-tag.js';
import { isHeaderValue } from './header-text.js';
import type { RenderedAnswer } from './rendered-answer.js';

/** An answer, ready to be rendered. `constant` when no expression is in it: then there is nothing to render. */
export interface CompiledAnswer {
  readonly constant: RenderedAnswer | null;
  readonly render: (frame: Frame) => RenderedAnswer;
}

type Body = string | Uint8Array | null | ((frame: Frame) => string);
type Header = readonly [name: string, value: string | ((frame: Frame) => string)];

const CONTENT_TYPES = {
  json: 'application/json',
  xml: 'application/xml; charset=utf-8',
  text: 'text/plain; charset=utf-8',
  problem: 'application/problem+json',
  base64: 'application/octet-stream',
  none: null,
  // Of the version that the caller speaks.
  soap: null,
  soapFault: null,
} as const;

const DEFAULT_STATUS = 200;
const NO_CONTENT = 204;

export function compileAnswer(answer: Answer, path: readonly PathKey[], scope: TextScope): CompiledAnswer {
  const compiled = compilePlain(answer, path, scope);
  if (answer.serve === undefined) return compiled;
  return { constant: null, render: (frame) => serveEntityTag(compiled.render(frame), frame.request) };
}

function compilePlain(answer: Answer, path: readonly PathKey[], scope: TextScope): CompiledAnswer {
  const form = BODY_FORMS.find((name) => answer[name] !== undefined) ?? 'none';
  const status = compileStatus(
    answer.status ?? (form === 'none' ? NO_CONTENT : DEFAULT_STATUS),
    [...path, 'status'],
    scope,
  );
  const headers = compileHeaders(answer, form, [...path, 'headers'], scope);
  const envelope = compileSoap(answer, compileSoapHead(answer, status, headers), path, scope);
  if (envelope !== null) return { constant: null, render: envelope };
  const body = compileBody(answer, form, status, [...path, form], scope);
  const dynamic =
    headers.some(([, value]) => typeof value === 'function') ||
    typeof body === 'function' ||
    typeof status === 'function';
  const render = (frame: Frame): RenderedAnswer => ({
    status: typeof status === 'function' ? status(frame) : status,
    headers: renderHeaders(headers, frame),
    body: typeof body === 'function' ? body(frame) : body,
  });
  if (dynamic) return compileFixedHead(status, headers, body) ?? { constant: null, render };
  const constant = {
    status: status as number,
    headers: headers.flat() as string[],
    body: toBytes(body as Exclude<Body, (frame: Frame) => string>),
  };
  return { constant, render: () => constant };
}

function compileSoapHead(
  answer: Answer,
  status: number | ((frame: Frame) => number),
  headers: readonly Header[],
): SoapHead {
  const given = answer.status === undefined ? null : status;
  return {
    status: (frame) => (typeof given === 'function' ? given(frame) : given),
    headers: (frame) => renderHeaders(headers, frame),
  };
}

/** The usual case: only the body is computed. */
function compileFixedHead(
  status: number | ((frame: Frame) => number),
  headers: readonly Header[],
  body: Body,
): CompiledAnswer | null {
  if (
    typeof status === 'function' ||
    typeof body !== 'function' ||
    headers.some(([, value]) => typeof value === 'function')
  )
    return null;
  const flat = headers.flat() as string[];
  return { constant: null, render: (frame) => ({ status, headers: flat, body: body(frame) }) };
}

const ENCODER = new TextEncoder();

function toBytes(body: string | Uint8Array | null): Uint8Array | null {
  return typeof body === 'string' ? ENCODER.encode(body) : body;
}

function compileStatus(
  status: number | string,
  path: readonly PathKey[],
  scope: TextScope,
): number | ((frame: Frame) => number) {
  if (typeof status === 'number') return status;
  const compiled = compileText(status, path, scope);
  if (compiled.kind === 'constant') {
    const value = Number(status);
    if (!isStatus(value)) scope.report('a status from 200 to 599 is expected', path);
    return value;
  }
  return (frame) => {
    const value = Number(compiled.evaluate(frame));
    return isStatus(value) ? value : fail(`the status came out as ${value}; 200 to 599 is expected`);
  };
}

function isStatus(value: number): boolean {
  return Number.isInteger(value) && value >= 200 && value <= 599;
}

const MADE_ANEW = ['content-length', 'transfer-encoding', 'connection', 'keep-alive'];

function compileHeaders(
  answer: Answer,
  form: keyof typeof CONTENT_TYPES,
  path: readonly PathKey[],
  scope: TextScope,
): Header[] {
  const headers: Header[] = [];
  for (const [name, given] of Object.entries(answer.headers ?? {})) {
    if (MADE_ANEW.includes(name.toLowerCase())) {
      scope.report(`\`${name}\` is made anew for each answer and cannot be set`, [...path, name]);
      continue;
    }
    if (answer.serve !== undefined && name.toLowerCase() === 'etag') {
      scope.report('`serve: [etag]` makes the entity tag; take one of the two away', [...path, name]);
      continue;
    }
    const list = Array.isArray(given) ? given : [given];
    list.forEach((value, i) => {
      const at = Array.isArray(given) ? [...path, name, i] : [...path, name];
      headers.push([
        name,
        compileHeaderValue(compileText(String(value), at, scope), name, () =>
          scope.report('a header value has no line breaks and no characters beyond Latin-1', at),
        ),
      ]);
    });
  }
  const type = CONTENT_TYPES[form];
  const isTyped = headers.some(([name]) => name.toLowerCase() === 'content-type');
  if (type !== null && !isTyped) headers.unshift(['content-type', type]);
  return headers;
}

function compileHeaderValue(text: CompiledText, name: string, reportBroken: () => void): Header[1] {
  if (text.kind === 'constant') {
    if (!isHeaderValue(text.text)) reportBroken();
    return text.text;
  }
  return (frame) => {
    const value = toText(text.evaluate(frame));
    return isHeaderValue(value) ? value : fail(`the header ${name} came out with characters a header cannot hold`);
  };
}

function renderHeaders(headers: readonly Header[], frame: Frame): string[] {
  const flat: string[] = [];
  for (const [name, value] of headers) flat.push(name, typeof value === 'string' ? value : value(frame));
  return flat;
}

function compileBody(
  answer: Answer,
  form: keyof typeof CONTENT_TYPES,
  status: number | ((frame: Frame) => number),
  path: readonly PathKey[],
  scope: TextScope,
): Body {
  switch (form) {
    case 'json':
      return compileJson(answer.json, path, scope);
    case 'text': {
      const text = compileText(answer.text ?? '', path, scope);
      return text.kind === 'constant' ? text.text : (frame) => toText(text.evaluate(frame));
    }
    case 'xml':
      return compileMarkup(answer.xml ?? '', 'document', path, scope);
    case 'problem':
      return compileJson({ ...(typeof status === 'number' ? { status } : {}), ...answer.problem }, path, scope);
    case 'base64':
      return Uint8Array.from(atob(answer.base64 ?? ''), (c) => c.charCodeAt(0));
    default:
      return null;
  }
}
