import { type Answer, BODY_FORMS } from '../definition/answer.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type Frame, fail } from '../expression/frame.js';
import { toText } from '../expression/value.js';
import { compileRowPick, pickRow } from '../state/compile-row-pick.js';
import { type CompiledBody, compileBody } from './compile-body.js';
import { writeCookies } from './compile-cookies.js';
import { compileEvents } from './compile-events.js';
import { compileNamedFile } from './compile-named-file.js';
import { compileNegotiated } from './compile-negotiated.js';
import { compileRelay } from './compile-relay.js';
import { compileSoap, type SoapHead } from './compile-soap.js';
import { serveStoredRange, wholeFile } from './compile-stored.js';
import { type CompiledText, compileText, type TextScope } from './compile-text.js';
import type { CompiledAnswer } from './compiled-answer.js';
import { type BodyForm, contentTypeOf } from './content-types.js';
import { serveEntityTag } from './entity-tag.js';
import { isHeaderValue } from './header-text.js';
import type { EventsForm, RelayedForm, RenderedAnswer, StoredForm } from './rendered-answer.js';
import { PARTIAL, serveRanges } from './serve-ranges.js';

type Header = readonly [name: string, value: string | ((frame: Frame) => string)];

const DEFAULT_STATUS = 200;
/** 0: the upstream's own. */
const USUAL_STATUS: Readonly<Partial<Record<BodyForm, number>>> = { none: 204, relay: 0 };

export function compileAnswer(answer: Answer, path: readonly PathKey[], scope: TextScope): CompiledAnswer {
  if (answer.row === undefined) return compileForms(answer, path, scope);
  const pick = compileRowPick(answer.row, [...path, 'row'], scope);
  const inner = compileForms(answer, path, { ...scope, names: { ...scope.names, row: true } });
  return {
    constant: null,
    render: (frame) => {
      const before = frame.row;
      frame.row = pickRow(frame, pick);
      const rendered = inner.constant ?? inner.render(frame);
      frame.row = before;
      return rendered;
    },
  };
}

function compileForms(answer: Answer, path: readonly PathKey[], scope: TextScope): CompiledAnswer {
  if (answer.file !== undefined && 'choices' in answer.file)
    return compileNamedFile(answer, answer.file, path, scope, (own) => compileForms(own, path, scope));
  if (answer.as !== undefined)
    return compileNegotiated(answer, path, (own, at) => compileServed(own, [...at], path, scope));
  return compileServed(answer, path, path, scope);
}

/** `bodyPath`: where the body stands, where that is not with the rest of the answer. */
function compileServed(
  answer: Answer,
  bodyPath: readonly PathKey[],
  path: readonly PathKey[],
  scope: TextScope,
): CompiledAnswer {
  const { serve } = answer;
  const compiled = compilePlain(answer, bodyPath, path, scope);
  if (serve === undefined) return compiled;
  if (answer.events !== undefined || answer.relay !== undefined) {
    scope.report('`serve` goes with a body that is known as a whole', [...path, 'serve']);
    return compiled;
  }
  return {
    constant: null,
    render: (frame) => {
      const { request } = frame;
      let rendered = compiled.constant ?? compiled.render(frame);
      const stored = rendered.wire?.kind === 'stored' ? rendered.wire : null;
      if (stored !== null) return serve.includes('range') ? serveStoredRange(rendered, stored, request) : rendered;
      if (serve.includes('etag')) rendered = serveEntityTag(rendered, request);
      if (serve.includes('range')) rendered = serveRanges(rendered, request);
      return serve.includes('gzip') && rendered.status !== PARTIAL ? { ...rendered, wire: PACKED } : rendered;
    },
  };
}

const PACKED = { kind: 'packed' } as const;

function compilePlain(
  answer: Answer,
  bodyPath: readonly PathKey[],
  path: readonly PathKey[],
  scope: TextScope,
): CompiledAnswer {
  const form = BODY_FORMS.find((name) => answer[name] !== undefined) ?? 'none';
  const status = compileStatus(answer.status ?? USUAL_STATUS[form] ?? DEFAULT_STATUS, [...path, 'status'], scope);
  const headers = compileHeaders(answer, form, [...path, 'headers'], scope);
  const envelope = compileSoap(answer, compileSoapHead(answer, status, headers), path, scope);
  if (envelope !== null) return { constant: null, render: envelope };
  const wire = compileWire(answer, path, scope);
  if (wire !== null) return renderOnWire(status, headers, wire);
  const body = compileBody(answer, form, status, bodyPath === path ? [...path, form] : bodyPath, scope);
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
    body: toBytes(body as Exclude<CompiledBody, (frame: Frame) => string>),
  };
  return { constant, render: () => constant };
}

type CompiledWire = (frame: Frame) => EventsForm | RelayedForm | StoredForm;

/** What is no body that is there as a whole: events, or what the upstream answers; null: the answer is one. */
function compileWire({ events, relay, file }: Answer, path: readonly PathKey[], scope: TextScope): CompiledWire | null {
  if (file !== undefined && 'path' in file) {
    const whole = wholeFile(file);
    return () => whole;
  }
  if (events !== undefined) return compileEvents(events, [...path, 'events'], scope);
  return relay === undefined ? null : compileRelay(relay, [...path, 'relay'], scope);
}

function renderOnWire(
  status: number | ((frame: Frame) => number),
  headers: readonly Header[],
  wire: CompiledWire,
): CompiledAnswer {
  return {
    constant: null,
    render: (frame) => ({
      status: typeof status === 'function' ? status(frame) : status,
      headers: renderHeaders(headers, frame),
      body: null,
      wire: wire(frame),
    }),
  };
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
  body: CompiledBody,
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

function compileHeaders(answer: Answer, form: BodyForm, path: readonly PathKey[], scope: TextScope): Header[] {
  const headers: Header[] = [];
  for (const [name, given] of Object.entries(answer.headers ?? {})) {
    if (MADE_ANEW.includes(name.toLowerCase())) {
      scope.report(`\`${name}\` is made anew for each answer and cannot be set`, [...path, name]);
      continue;
    }
    if (answer.serve?.includes('etag') === true && name.toLowerCase() === 'etag') {
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
  for (const { text, at } of writeCookies(answer.cookies, [...path.slice(0, -1), 'cookies']))
    headers.push([
      'set-cookie',
      compileHeaderValue(compileText(text, at, scope), 'set-cookie', () =>
        scope.report('a cookie has no line breaks and no characters beyond Latin-1', at),
      ),
    ]);
  const type = contentTypeOf(answer, form);
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
