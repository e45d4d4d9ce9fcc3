import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import type { Contract, ContractNode } from './contract.js';
import type { ContractOperation } from './contract-operation.js';

/** What an answer leads to by the contract's own words (OpenAPI 3.1, 4.8.20): parameters of a later call. */
export interface ContractLink {
  /** The status it is of: `201`, `2XX`, `default`. */
  readonly code: string;
  /** The operation it leads to: its id, or where it stands. */
  readonly to: { readonly id: string } | { readonly node: ContractNode };
  readonly parameters: readonly LinkedParameter[];
}

export interface LinkedParameter {
  /** `path`, `query` ...; null: wherever the operation has a parameter of this name. */
  readonly place: string | null;
  readonly name: string;
  /** A runtime expression, or a value. */
  readonly value: unknown;
}

/** The links of all responses of an operation. */
export function readLinks(contract: Contract, { responses }: ContractOperation): ContractLink[] {
  return responses.flatMap(({ code, node }) =>
    contract.children(contract.at(node, 'links')).flatMap(([, raw]): ContractLink[] => {
      const link = contract.resolve(raw);
      if (link === null || !isJsonMap(link.value)) return [];
      const to = targetOf(contract, link, link.value);
      const parameters = Object.entries(isJsonMap(link.value['parameters']) ? link.value['parameters'] : {});
      return to === null ? [] : [{ code, to, parameters: parameters.map(([key, value]) => toParameter(key, value)) }];
    }),
  );
}

function targetOf(contract: Contract, link: ContractNode, value: JsonMap): ContractLink['to'] | null {
  const { operationId, operationRef } = value;
  if (typeof operationId === 'string') return { id: operationId };
  if (typeof operationRef !== 'string') return null;
  const node = contract.resolve({ document: link.document, path: link.path, value: { $ref: operationRef } });
  return node === null ? null : { node };
}

function toParameter(key: string, value: unknown): LinkedParameter {
  const [, place = null, name = key] = /^(path|query|header|cookie)\.(.+)$/.exec(key) ?? [];
  return { place, name, value };
}

/** Both messages of a call, as far as runtime expressions look at them. */
export interface ExchangedCall {
  readonly url: string;
  readonly method: string;
  readonly path: ReadonlyMap<string, string>;
  readonly query: URLSearchParams;
  readonly requestHeader: (name: string) => string | null;
  readonly requestJson: unknown;
  readonly status: number;
  readonly responseHeader: (name: string) => string | null;
  readonly responseJson: unknown;
}

/** What a runtime expression comes to, alone (`$response.body#/id`) or within a text (`/x/{$request.path.id}`); undefined: nothing. */
function evaluateRuntime(value: unknown, call: ExchangedCall): unknown {
  if (typeof value !== 'string') return value;
  if (/^\$[^{}]+$/.test(value)) return readExpression(value, call);
  return value.replaceAll(/\{(\$[^{}]+)\}/g, (_, own: string) => String(readExpression(own, call) ?? ''));
}

function readExpression(own: string, call: ExchangedCall): unknown {
  if (own === '$url') return call.url;
  if (own === '$method') return call.method;
  if (own === '$statusCode') return call.status;
  const [, side = '', place = '', name = ''] =
    /^\$(request|response)\.(body|header|query|path)[.#]?(.*)$/.exec(own) ?? [];
  const isRequest = side === 'request';
  if (place === 'body') return atPointer(isRequest ? call.requestJson : call.responseJson, name);
  if (place === 'header') return (isRequest ? call.requestHeader(name) : call.responseHeader(name)) ?? undefined;
  if (place === 'query') return call.query.get(name) ?? undefined;
  return place === 'path' ? call.path.get(name) : undefined;
}

/** By JSON Pointer (RFC 6901); undefined: it leads nowhere. */
function atPointer(value: unknown, pointer: string): unknown {
  const keys = pointer.split('/').slice(1);
  return keys.reduce<unknown>((here, key) => {
    const own = key.replaceAll('~1', '/').replaceAll('~0', '~');
    return here !== null && typeof here === 'object' && Object.hasOwn(here, own) ? (here as JsonMap)[own] : undefined;
  }, value);
}

/** A value that a link carries. */
export interface LinkedValue {
  /** The operation it is for: its id, or where it stands. */
  readonly to: string;
  readonly place: string | null;
  readonly name: string;
  readonly value: string;
}

/** What the links of an operation make of a call of it; `links`: all that it has. */
export function followLinks(contract: Contract, links: readonly ContractLink[], call: ExchangedCall): LinkedValue[] {
  return links.flatMap(({ code, to, parameters }) => {
    if (!isOfStatus(code, call.status)) return [];
    const target = 'id' in to ? to.id : contract.describe(to.node);
    return parameters.flatMap(({ place, name, value }) => {
      const own = evaluateRuntime(value, call);
      const isText = typeof own === 'string' || typeof own === 'number' || typeof own === 'boolean';
      return isText ? [{ to: target, place, name, value: String(own) }] : [];
    });
  });
}

function isOfStatus(code: string, status: number): boolean {
  return code === String(status) || code.toUpperCase() === `${Math.floor(status / 100)}XX` || code === 'default';
}
