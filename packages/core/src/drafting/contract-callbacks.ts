import type { Contract, ContractNode } from '../contract/contract.js';
import type { ContractOperation } from '../contract/contract-operation.js';
import { flattenFirst } from '../contract/flat-schema.js';
import { generateValue } from '../contract/generate-value.js';
import { readBody } from '../contract/read-parts.js';
import { isJsonMap } from '../definition/json-map.js';
import { escapeTemplates } from '../expression/template.js';
import { memberExpression } from './leaves.js';

type Report = (node: ContractNode, reason: string) => void;

/** The callbacks of an operation (OpenAPI 3) as steps of `then`, one for each call they make. */
export function draftCallbacks(contract: Contract, operation: ContractOperation, report: Report): object[] {
  return contract.children(contract.at(operation.node, 'callbacks')).flatMap(([, raw]) => {
    const callback = contract.resolve(raw);
    if (callback === null) {
      report(raw, contract.explainLost(raw));
      return [];
    }
    return contract.children(callback).flatMap(([expression, item]) => {
      if (expression.startsWith('x-')) return [];
      const to = toTemplate(expression);
      if (to === null) {
        report(item, `${expression} is not understood`);
        return [];
      }
      return METHODS.flatMap((method) => {
        const node = contract.at(item, method);
        return node === null
          ? []
          : [{ callback: { to, ...nameMethod(method), ...draftBody(contract, operation, node, placeOf(operation)) } }];
      });
    });
  });
}

/** A call that a contract says its service makes by itself (OpenAPI 3.1, `webhooks`): nothing says when. */
export interface DraftedWebhook {
  readonly name: string;
  readonly at: string;
  /** A step of `then`, ready for the case that leads to it but for its address. */
  readonly step: object;
}

export function draftWebhooks(contract: Contract): DraftedWebhook[] {
  const webhooks = contract.children(contract.at(contract.root(), 'webhooks'));
  return webhooks.flatMap(([name, raw]) => {
    const item = contract.resolve(raw);
    return METHODS.flatMap((method) => {
      const node = item === null ? null : contract.at(item, method);
      if (node === null) return [];
      const to = `http://127.0.0.1:8080/${encodeURIComponent(name)}`;
      const step = { callback: { to, ...nameMethod(method), ...draftBody(contract, null, node, `webhook ${name}`) } };
      return [{ name, at: contract.describe(node), step }];
    });
  });
}

const METHODS = ['post', 'put', 'patch', 'get', 'delete'];

function nameMethod(method: string): { readonly method?: string } {
  return method === 'post' ? {} : { method: method.toUpperCase() };
}

/** `{$request.body#/notify}/done` -> `${call.json.notify}/done`; null: it is no runtime expression (OpenAPI 3.1, 4.8.20.4). */
function toTemplate(expression: string): string | null {
  let isUnderstood = true;
  const text = expression.replaceAll(
    /\{?(\$(?:url|method|statusCode|(?:request|response)\.[^{}\s]+))\}?/g,
    (_all, own) => {
      const read = toExpression(String(own));
      isUnderstood &&= read !== null;
      return `\${${read}}`;
    },
  );
  return isUnderstood ? text : null;
}

function toExpression(own: string): string | null {
  if (own === '$url') return 'call.url';
  if (own === '$method') return 'call.method';
  if (own === '$statusCode') return 'answer.status';
  const [, side = '', place = '', name = ''] =
    /^\$(request|response)\.(body|header|query|path)[.#]?(.*)$/.exec(own) ?? [];
  const root = side === 'request' ? 'call' : 'answer';
  if (place === 'body') return `${root}.json${memberExpression(stepsOf(name))}`;
  if (place === 'header') return `${root}.headers${memberExpression([name.toLowerCase()])}`;
  return side === 'request' && place !== '' ? `call.${place}${memberExpression([name])}` : null;
}

/** The keys of a JSON Pointer. */
function stepsOf(pointer: string): (string | number)[] {
  const keys = pointer.split('/').slice(1);
  return keys
    .map((key) => key.replaceAll('~1', '/').replaceAll('~0', '~'))
    .map((key) => (/^\d+$/.test(key) ? Number(key) : key));
}

/** What is sent: its example, else made up; members that are called as those of the answer or the call are theirs. */
function draftBody(
  contract: Contract,
  operation: ContractOperation | null,
  node: ContractNode,
  place: string,
): { readonly json?: unknown } {
  const media = readBody(contract, node, [])?.media.find(({ type }) => /json/i.test(type)) ?? null;
  if (media === null) return {};
  const [example] = media.examples;
  const made = example?.value ?? (media.schema === null ? undefined : generateValue(contract, media.schema, place));
  if (made === undefined) return {};
  const json = escapeTemplates(made);
  if (!isJsonMap(json)) return { json };
  const isMoment = (name: string): boolean =>
    example === undefined && formatOf(contract, media.schema, name) === 'date-time';
  const members = Object.entries(json).map(([name, value]) => [
    name,
    (operation === null ? null : findSame(contract, operation, name, value)) ?? (isMoment(name) ? '${now}' : value),
  ]);
  return { json: Object.fromEntries(members) };
}

function placeOf({ method, path }: ContractOperation): string {
  return `${method} ${path} callback`;
}

/** An id that the answer or the call has under the same name, and of the same type. */
function findSame(contract: Contract, operation: ContractOperation, name: string, value: unknown): string | null {
  if (value !== null && typeof value === 'object') return null;
  const success = operation.responses.find(({ code }) => code.startsWith('2'));
  const answered = success?.media.find(({ type }) => /json/i.test(type))?.schema ?? null;
  const sent = operation.body?.media.find(({ type }) => /json/i.test(type))?.schema ?? null;
  for (const [root, schema] of [
    ['answer', answered],
    ['call', sent],
  ] as const) {
    const node = schema === null ? null : childNamed(contract, schema, name);
    if (node !== null && typeof generateValue(contract, node, name) === typeof value)
      return `\${${root}.json${memberExpression([name])}}`;
  }
  return null;
}

function formatOf(contract: Contract, schema: ContractNode | null, name: string): string | null {
  const node = schema === null ? null : childNamed(contract, schema, name);
  return node === null ? null : flattenFirst(contract, node).format;
}

function childNamed(contract: Contract, schema: ContractNode, name: string): ContractNode | null {
  const { properties } = flattenFirst(contract, schema);
  return properties.get(name)?.[0] ?? null;
}
