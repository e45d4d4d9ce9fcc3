import { fillMixedSegment } from '../../matching/mixed-segment.js';
import type { OperationAddress } from '../../matching/path-template.js';
import type { Contract, ContractNode } from '../contract.js';
import type { ContractMedia, ContractOperation, ContractParameter } from '../contract-operation.js';
import { findMisfit } from '../find-misfit.js';
import { flattenFirst } from '../flat-schema.js';
import { generateValue } from '../generate-value.js';
import { readStyle } from '../parameters/parameter-style.js';
import { writeOne, writeQuery } from '../parameters/write-parameter.js';
import { bareType, isJsonType } from './media-type.js';
import { type SampleBody, writeBody } from './write-body.js';

/** A call that is made up, part by part, so that each can be changed; names of headers in lower case. */
export interface SampleParts {
  readonly path: Map<string, string>;
  readonly query: Map<string, readonly string[]>;
  readonly headers: Map<string, string>;
  readonly cookies: Map<string, string>;
  /** Null: none is sent. */
  body: SampleBody | null;
}

/** A call as it is sent. `headers` is flat: name, value, name, value. */
export interface SampleCall {
  readonly method: string;
  /** Path and query. */
  readonly target: string;
  readonly headers: readonly string[];
  readonly body: Uint8Array | null;
}

export function emptyParts(): SampleParts {
  return { path: new Map(), query: new Map(), headers: new Map(), cookies: new Map(), body: null };
}

export function copyParts({ path, query, headers, cookies, body }: SampleParts): SampleParts {
  return {
    path: new Map(path),
    query: new Map(query),
    headers: new Map(headers),
    cookies: new Map(cookies),
    body: body === null ? null : { type: body.type, value: structuredClone(body.value) },
  };
}

/** A valid call of an operation: what its contract requires, from examples where there are some that fit. */
export function sampleParts(contract: Contract, operation: ContractOperation): SampleParts {
  const parts = emptyParts();
  for (const parameter of operation.parameters) {
    if (parameter.isRequired) addParameter(parts, contract, parameter, agreeingSchema(contract, operation, parameter));
  }
  for (const { place, prefix } of operation.security[0] ?? []) {
    const [kind = '', name = ''] = (place ?? '').split(' ');
    const text = prefix === 'basic ' ? BASIC : prefix === null ? 'sample' : `${capitalize(prefix)}sample`;
    addText(parts, kind, name, text);
  }
  const media = chooseMedia(operation.body?.media ?? []);
  if (media !== null)
    parts.body = { type: bareType(media.type), value: sampleOf(contract, media.schema, media.examples, 'sample body') };
  return parts;
}

/** sample:sample */
const BASIC = 'Basic c2FtcGxlOnNhbXBsZQ==';

function capitalize(text: string): string {
  return text.slice(0, 1).toUpperCase() + text.slice(1);
}

/** JSON where it may be; else what can be written down from a value. */
function chooseMedia(media: readonly ContractMedia[]): ContractMedia | null {
  const types = ['application/x-www-form-urlencoded', 'multipart/form-data', 'text/plain'];
  return (
    media.find(({ type }) => isJsonType(type)) ??
    media.find(({ type }) => types.includes(bareType(type))) ??
    media.find(({ type }) => bareType(type) === '*/*') ??
    media[0] ??
    null
  );
}

function sampleOf(
  contract: Contract,
  schema: ContractNode | null,
  examples: readonly { readonly value: unknown }[],
  place: string,
): unknown {
  if (schema === null) return examples[0]?.value ?? 'x';
  const fitting = examples.find(({ value }) => findMisfit(contract, schema, value, 'request') === null);
  return fitting === undefined ? generateValue(contract, schema, place, 'request') : fitting.value;
}

/** The text that made-up calls have for a parameter of the path; null: it has no such. */
export function samplePathText(contract: Contract, operation: ContractOperation, name: string): string | null {
  const parameter = operation.parameters.find((own) => own.place === 'path' && own.name === name);
  if (parameter === undefined) return null;
  const parts = emptyParts();
  addParameter(parts, contract, parameter, agreeingSchema(contract, operation, parameter));
  return parts.path.get(name) ?? null;
}

/** Of an id whose parameter allows any text, the member of the answer that says more of it: answers repeat what was asked for. */
function agreeingSchema(
  contract: Contract,
  { path, responses }: ContractOperation,
  { name, place, schema }: ContractParameter,
): ContractNode | null {
  if (place !== 'path' || schema === null || !path.endsWith(`{${name}}`)) return schema;
  const flat = flattenFirst(contract, schema);
  if (flat.format !== null || flat.patterns.length > 0 || flat.enum !== null || flat.given.length > 0) return schema;
  const answered = responses.find(({ code }) => code.startsWith('2'))?.media.find(({ type }) => isJsonType(type));
  if (answered?.schema == null) return schema;
  const { properties } = flattenFirst(contract, answered.schema);
  const [member] = properties.get(name) ?? (/id$/i.test(name) ? properties.get('id') : undefined) ?? [];
  if (member === undefined) return schema;
  const value = generateValue(contract, member, `sample ${name}`);
  return typeof value !== 'object' && findMisfit(contract, schema, value, 'request') === null ? member : schema;
}

function addParameter(
  parts: SampleParts,
  contract: Contract,
  parameter: ContractParameter,
  schema: ContractNode | null,
): void {
  const { name, place, examples } = parameter;
  const value = sampleOf(contract, schema, examples, `sample ${name}`);
  const style = readStyle(contract, parameter);
  if (place === 'query') {
    for (const [key, text] of writeQuery(name, value, style))
      parts.query.set(key, [...(parts.query.get(key) ?? []), text]);
  } else addText(parts, place, place === 'header' ? name.toLowerCase() : name, writeOne(name, value, style));
}

function addText({ path, query, headers, cookies }: SampleParts, place: string, name: string, text: string): void {
  if (place === 'query') query.set(name, [text]);
  if (place === 'path') path.set(name, text);
  if (place === 'header') headers.set(name, text);
  if (place === 'cookie') cookies.set(name, text);
}

/** The parts put together, for an address. What its path asks for and no part says is `x1`. */
export function renderSample(address: OperationAddress, parts: SampleParts): SampleCall {
  const { path, query, headers, cookies, body } = parts;
  const textOf = (name: string): string => path.get(name) || 'x1';
  const segments = address.segments.map((segment) => {
    if (segment.kind === 'literal') return encodeURIComponent(segment.text);
    return encodeURIComponent(segment.kind === 'mixed' ? fillMixedSegment(segment, textOf) : textOf(segment.name));
  });
  const pairs = [...query].flatMap(([name, texts]) => texts.map((text): [string, string] => [name, text]));
  const search = pairs.length === 0 ? '' : `?${new URLSearchParams(pairs)}`;
  const cookie = [...cookies].map(([name, value]) => `${name}=${value}`).join('; ');
  const written = body === null ? null : writeBody(body);
  return {
    method: address.method === '*' ? 'GET' : address.method,
    target: `/${segments.join('/')}${search}`,
    headers: [
      ...[...headers].flat(),
      ...(cookie === '' ? [] : ['cookie', cookie]),
      ...(written === null || headers.has('content-type') ? [] : ['content-type', written.contentType]),
    ],
    body: written?.bytes ?? null,
  };
}
