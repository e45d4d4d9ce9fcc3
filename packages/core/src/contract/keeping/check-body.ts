import { roundNumbers } from '../../json/exact-json.js';
import { readMultipart } from '../../request/read-multipart.js';
import { NO_JSON, type RequestView } from '../../request/request-view.js';
import type { Contract } from '../contract.js';
import type { ContractBody, ContractMedia } from '../contract-operation.js';
import { readSchemaKind, type SchemaKind, textToValue } from '../parameters/schema-kind.js';
import type { CallFinding } from './call-finding.js';
import type { AddFindings } from './check-parameters.js';
import { bareType, findMedia, isJsonType } from './media-type.js';
import type { SchemaFinding, SchemaValidator } from './schema-validator.js';

const BAD_REQUEST = 400;
const UNSUPPORTED_MEDIA = 415;

/** What is checked of bodies of one media type. */
interface MediaCheck {
  readonly read: (request: RequestView) => unknown;
  readonly validate: (value: unknown) => readonly SchemaFinding[];
  /** What findings say of where: `json $.berthId`, `form $.berthId`. */
  readonly word: string;
}

const UNREADABLE: unique symbol = Symbol('unreadable');

/** Holds bodies against what the contract says of them: that they are there, of a media type it has, and as its schema says. */
export function compileBodyCheck(contract: Contract, body: ContractBody, validator: SchemaValidator): AddFindings {
  const checks = new Map(body.media.map((media) => [media, compileMedia(contract, media, validator)]));
  const find = (at: string, message: string, refusal: number): CallFinding => ({
    in: 'call',
    at,
    message,
    rule: contract.describe(body.node),
    refusal,
  });
  const types = body.media.map((own) => own.type).join(', ');
  return (request, _pathTexts, into) => {
    if (request.body === null || request.body.byteLength === 0) {
      if (body.isRequired) into.push(find('body', 'is missing', BAD_REQUEST));
      return;
    }
    const sent = request.header('content-type');
    const media = sent === undefined ? null : findMedia(body.media, bareType(sent));
    if (media === null) {
      const message =
        sent === undefined
          ? `is missing; the contract has ${types}`
          : `${bareType(sent)} is not in the contract; it has ${types}`;
      if (body.media.length > 0) into.push(find('header content-type', message, UNSUPPORTED_MEDIA));
      return;
    }
    const check = isPacked(request) ? undefined : checks.get(media);
    if (check === undefined || check === null) return;
    const value = check.read(request);
    if (value === UNREADABLE) into.push(find('body', `is no ${bareType(media.type)}`, BAD_REQUEST));
    else
      for (const { at, message, rule } of check.validate(value))
        into.push({ in: 'call', at: `${check.word} ${at}`, message, rule, refusal: BAD_REQUEST });
  };
}

/** Whether the body has a coding that a mock does not undo before it looks. */
function isPacked(request: RequestView): boolean {
  return !/^(|identity|x?-?gzip|deflate|br)$/i.test(request.header('content-encoding') ?? '');
}

/** Null: nothing is known of bodies of the type but that they are allowed. */
function compileMedia(
  contract: Contract,
  { type, schema }: ContractMedia,
  validator: SchemaValidator,
): MediaCheck | null {
  if (schema === null) return null;
  const validate = validator.compile(schema, 'request');
  const bare = bareType(type);
  if (isJsonType(bare)) return { validate, word: 'json', read: readJson };
  const kind = readSchemaKind(contract, schema);
  if (bare === 'application/x-www-form-urlencoded')
    return { validate, word: 'form', read: (request) => toFields(request.form(), kind) };
  if (bare === 'multipart/form-data') return { validate, word: 'form', read: (request) => readParts(request, kind) };
  return bare === 'text/plain'
    ? { validate, word: 'text', read: (request) => textToValue(request.text(), kind) }
    : null;
}

function readJson(request: RequestView): unknown {
  const json = request.json();
  return json === NO_JSON ? UNREADABLE : roundNumbers(json);
}

/** Files are told by an empty text: what is in them, schemas do not say. */
function readParts(request: RequestView, kind: SchemaKind): unknown {
  const parts = readMultipart(request.header('content-type') ?? '', request.body ?? new Uint8Array(0));
  if (parts === null) return UNREADABLE;
  const fields: Record<string, string[]> = Object.create(null);
  for (const { name, fileName, content } of parts) {
    const text = fileName === null ? new TextDecoder().decode(content) : '';
    const before = fields[name];
    if (before === undefined) fields[name] = [text];
    else before.push(text);
  }
  return toFields(
    Object.fromEntries(Object.entries(fields).map(([name, texts]) => [name, texts.length === 1 ? texts[0] : texts])),
    kind,
  );
}

/** The fields of a form as values of the schema's members; a field that came several times is a list. */
function toFields(
  fields: Readonly<Record<string, string | readonly string[] | undefined>>,
  { members }: SchemaKind,
): Record<string, unknown> {
  const values: Record<string, unknown> = Object.create(null);
  for (const [name, sent] of Object.entries(fields)) values[name] = toFieldValue(sent, members.get(name));
  return values;
}

function toFieldValue(sent: string | readonly string[] | undefined, kind: SchemaKind | undefined): unknown {
  if (kind === undefined || sent === undefined) return sent;
  const { types, item } = kind;
  if (types.has('array')) {
    const texts = typeof sent === 'string' ? [sent] : sent;
    return item === null ? texts : texts.map((text) => textToValue(text, item));
  }
  if (typeof sent !== 'string') return sent;
  // Members that are maps are sent as JSON (OpenAPI 3.1, 4.8.15.1).
  return types.has('object') && !types.has('string') ? tryJson(sent) : textToValue(sent, kind);
}

function tryJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}
