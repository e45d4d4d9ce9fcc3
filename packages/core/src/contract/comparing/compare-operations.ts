import type { Contract } from '../contract.js';
import type { ContractMedia, ContractOperation, ContractParameter, ContractResponse } from '../contract-operation.js';
import type { OpenApiOperation } from '../keeping/openapi-operation.js';
import { compareSchemas, type SchemaChange } from './compare-schemas.js';
import type { ContractChange } from './contract-change.js';

type Found = Omit<ContractChange, 'on' | 'what'>;

/** How one operation is another than in the version before. */
export function compareOperations(before: OpenApiOperation, now: OpenApiOperation): Found[] {
  const [old, own] = [before.operation, now.operation];
  return [
    ...compareSecurity(old, own),
    ...compareParameters(before, now),
    ...compareBodies(before, now),
    ...compareResponses(before, now),
  ];
}

function compareSecurity({ security: old }: ContractOperation, { security: now }: ContractOperation): Found[] {
  const places = (all: ContractOperation['security']): string =>
    all
      .map((schemes) => schemes.map(({ place, prefix }) => `${place} ${prefix ?? ''}`.trim()).join(' and '))
      .join(', or ');
  const [was, is] = [places(old), places(now)];
  if (was === is) return [];
  const message =
    is === '' ? 'asks for no credentials any more' : `asks for ${is}${was === '' ? '' : `, asked for ${was}`}`;
  return [{ at: 'credentials', message, breaks: is !== '' }];
}

function compareParameters(before: OpenApiOperation, now: OpenApiOperation): Found[] {
  const key = ({ place, name }: ContractParameter): string => `${place} ${name}`;
  const old = new Map(before.operation.parameters.map((own) => [key(own), own]));
  const own = new Map(now.operation.parameters.map((parameter) => [key(parameter), parameter]));
  const found: Found[] = [];
  for (const [at, parameter] of own) {
    const was = old.get(at);
    if (was === undefined) {
      const message = parameter.isRequired ? 'is new, and required' : 'is new';
      if (parameter.place !== 'path') found.push({ at, message, breaks: parameter.isRequired });
      continue;
    }
    if (was.isRequired !== parameter.isRequired)
      found.push({
        at,
        message: parameter.isRequired ? 'is required now' : 'is no longer required',
        breaks: parameter.isRequired,
      });
    found.push(...compareMaybe(before.contract, was.schema, now.contract, parameter.schema, 'caller', at));
  }
  for (const [at, { place }] of old)
    if (!own.has(at) && place !== 'path') found.push({ at, message: 'is gone', breaks: false });
  return found;
}

function compareMaybe(
  beforeContract: Contract,
  before: ContractParameter['schema'],
  nowContract: Contract,
  now: ContractParameter['schema'],
  sender: 'caller' | 'service',
  at: string,
): Found[] {
  if (before === null || now === null) return [];
  const pair = { before: { contract: beforeContract, node: before }, now: { contract: nowContract, node: now } };
  return compareSchemas(pair, sender).map((change) => placed(change, at));
}

function placed({ at, ...rest }: SchemaChange, above: string): Found {
  return { ...rest, at: at === '$' ? above : `${above} ${at}` };
}

function compareBodies(before: OpenApiOperation, now: OpenApiOperation): Found[] {
  const [old, own] = [before.operation.body, now.operation.body];
  if (old === null && own === null) return [];
  if (old === null)
    return [
      { at: 'body', message: own?.isRequired ? 'is new, and required' : 'is new', breaks: own?.isRequired === true },
    ];
  if (own === null) return [{ at: 'body', message: 'is gone', breaks: false }];
  const need: Found[] =
    old.isRequired === own.isRequired
      ? []
      : [{ at: 'body', message: own.isRequired ? 'is required now' : 'is no longer required', breaks: own.isRequired }];
  return [...need, ...compareMedia(before.contract, old.media, now.contract, own.media, 'caller', 'body')];
}

function compareMedia(
  beforeContract: Contract,
  before: readonly ContractMedia[],
  nowContract: Contract,
  now: readonly ContractMedia[],
  sender: 'caller' | 'service',
  at: string,
): Found[] {
  return before.flatMap((old): Found[] => {
    const own = now.find(({ type }) => type === old.type);
    if (own === undefined) return [{ at, message: `${old.type} is gone`, breaks: true }];
    return compareMaybe(beforeContract, old.schema, nowContract, own.schema, sender, at);
  });
}

function compareResponses(before: OpenApiOperation, now: OpenApiOperation): Found[] {
  const old = before.operation.responses;
  const own = now.operation.responses;
  const gone = old.filter(({ code }) => !own.some((other) => other.code === code));
  const added = own.filter(({ code }) => !old.some((other) => other.code === code));
  return [
    ...gone.map(({ code }) => ({ at: code, message: 'is answered no more', breaks: code.startsWith('2') })),
    ...added.map(({ code }) => ({ at: code, message: 'is new', breaks: false })),
    ...old.flatMap((response) => {
      const other = own.find(({ code }) => code === response.code);
      return other === undefined ? [] : compareResponse(before.contract, response, now.contract, other);
    }),
  ];
}

function compareResponse(
  beforeContract: Contract,
  before: ContractResponse,
  nowContract: Contract,
  now: ContractResponse,
): Found[] {
  const headers = before.headers
    .filter(({ isRequired, name }) => isRequired && !now.headers.some((own) => own.name === name && own.isRequired))
    .map(({ name }) => ({ at: `${before.code} header ${name}`, message: 'can no longer be relied on', breaks: true }));
  return [...headers, ...compareMedia(beforeContract, before.media, nowContract, now.media, 'service', before.code)];
}
