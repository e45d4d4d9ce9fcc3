import type { RenderedAnswer } from '../../answer/rendered-answer.js';
import { headerOf } from '../../traffic/exchange.js';
import type { Contract } from '../contract.js';
import type { ContractOperation, ContractResponse } from '../contract-operation.js';
import { readSchemaKind, textToValue } from '../parameters/schema-kind.js';
import { bareType, findMedia, isJsonType } from './media-type.js';
import type { SchemaFinding, SchemaValidator } from './schema-validator.js';

/** How an answer differs from what a contract says of its operation: status, headers, media type, body. */
export function checkAnswer(
  contract: Contract,
  operation: ContractOperation,
  answer: RenderedAnswer,
  validator: SchemaValidator,
): readonly SchemaFinding[] {
  const response = findResponse(operation, answer.status);
  if (response === null) {
    const codes = operation.responses.map(({ code }) => code).join(', ');
    const message = `${answer.status} is not in the contract; it has ${codes === '' ? 'no responses' : codes}`;
    return [{ at: 'status', message, rule: contract.describe(operation.node) }];
  }
  return [...checkHeaders(contract, response, answer, validator), ...checkBody(contract, response, answer, validator)];
}

/** The response of this status, of its range, or the default one. */
export function findResponse({ responses }: ContractOperation, status: number): ContractResponse | null {
  const range = `${Math.floor(status / 100)}XX`;
  return (
    responses.find(({ code }) => code === String(status)) ??
    responses.find(({ code }) => code.toUpperCase() === range) ??
    responses.find(({ code }) => code === 'default') ??
    null
  );
}

function checkHeaders(
  contract: Contract,
  response: ContractResponse,
  { headers }: RenderedAnswer,
  validator: SchemaValidator,
): SchemaFinding[] {
  return response.headers.flatMap(({ name, isRequired, schema }): readonly SchemaFinding[] => {
    const at = `header ${name.toLowerCase()}`;
    const value = headerOf(headers, name.toLowerCase());
    if (value === null)
      return isRequired ? [{ at, message: 'is missing', rule: contract.describe(response.node) }] : [];
    if (schema === null) return [];
    // Lists and maps are left alone: they are written in ways of their own.
    const kind = readSchemaKind(contract, schema);
    if (kind.types.has('array') || kind.types.has('object')) return [];
    return validator.validate(schema, textToValue(value, kind), 'response').map((finding) => ({ ...finding, at }));
  });
}

function checkBody(
  contract: Contract,
  response: ContractResponse,
  { headers, body, status }: RenderedAnswer,
  validator: SchemaValidator,
): readonly SchemaFinding[] {
  const isEmpty = body === null || body.length === 0;
  if (response.media.length === 0 || isEmpty) {
    if (isEmpty && response.media.length > 0 && status !== 304)
      return [
        {
          at: 'body',
          message: `is empty; ${response.media.map(({ type }) => type).join(' or ')} is expected`,
          rule: contract.describe(response.node),
        },
      ];
    return [];
  }
  const type = bareType(headerOf(headers, 'content-type') ?? '');
  const media = findMedia(response.media, type);
  if (media === null) {
    const types = response.media.map((own) => own.type).join(', ');
    return [
      {
        at: 'header content-type',
        message: `${type === '' ? 'none' : type} is not in the contract; it has ${types}`,
        rule: contract.describe(response.node),
      },
    ];
  }
  if (media.schema === null || !isJsonType(type)) return [];
  const json = parse(typeof body === 'string' ? body : new TextDecoder().decode(body ?? undefined));
  if (json === undefined) return [{ at: 'body', message: 'is no JSON', rule: contract.describe(response.node) }];
  return validator
    .validate(media.schema, json, 'response')
    .map((finding) => ({ ...finding, at: `json ${finding.at}` }));
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
