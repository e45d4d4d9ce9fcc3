import { isHeaderName, isHeaderValue } from '../answer/header-text.js';
import type { Contract } from '../contract/contract.js';
import type { ContractOperation, ContractResponse, NamedExample } from '../contract/contract-operation.js';
import { generateValue } from '../contract/generate-value.js';
import { isJsonMap } from '../definition/json-map.js';
import { escapeTemplate } from '../expression/template.js';
import { memberExpression } from './leaves.js';

/** JSON, or a range of types that it is in. */
export const JSON_TYPE = /json|^application\/\*|^\*\/\*/i;
export const XML_TYPE = /^(application|text)\/([\w.-]+\+)?xml\b/i;

/** Lengths and codings are the mock's own to make. */
const MADE_ANEW = new Set([
  'content-length',
  'transfer-encoding',
  'connection',
  'keep-alive',
  'content-encoding',
  'date',
]);

/** Headers that a contract requires or gives examples of; the place of what was made, where its id is in the answer. */
export function draftHeaders(
  contract: Contract,
  operation: ContractOperation,
  response: ContractResponse,
  body: unknown,
): Record<string, string> {
  const headers: Record<string, string> = {};
  for (const { name, isRequired, schema, examples } of response.headers) {
    if (
      !isHeaderName(name) ||
      MADE_ANEW.has(name.toLowerCase()) ||
      (!isRequired && examples.length === 0 && !/^(location|retry-after|etag)$/i.test(name))
    )
      continue;
    const place = `${operation.method} ${operation.path} ${response.code} ${name}`;
    const made = /^location$/i.test(name) && examples.length === 0 ? placeOfMade(operation, body) : null;
    if (made !== null) {
      headers['location'] = made;
      continue;
    }
    const value = examples[0]?.value ?? (schema === null ? name : generateValue(contract, schema, place));
    const text = value !== null && typeof value === 'object' ? JSON.stringify(value) : String(value);
    if (isHeaderValue(text)) headers[name.toLowerCase()] = escapeTemplate(text);
  }
  return headers;
}

/** Where what was made can be read: the collection's path and the id that the answer shows. */
function placeOfMade({ path }: ContractOperation, body: unknown): string {
  const named = (words: RegExp) =>
    isJsonMap(body) ? Object.entries(body).find(([name]) => words.test(name))?.[1] : undefined;
  const id = named(/^_?id$/) ?? named(/Id$|_id$/);
  const own = path.replaceAll(/\{([^{}]+)\}/g, (_, name: string) => `\${call.path${memberExpression([name])}}`);
  return typeof id === 'string' || typeof id === 'number' ? `${own}/${encodeURI(String(id))}` : own;
}

/** One body that a response is answered with. */
export interface DraftedBody {
  readonly type: string;
  /** A value, a text, or, of a stand-in, what is in it in base64. */
  readonly value: unknown;
  readonly from: 'example' | 'schema' | 'stand-in';
  /** The example it is; null: it was made up. */
  readonly example: NamedExample | null;
  /** What speaks against it. */
  readonly doubt: string | null;
}

/** A body, as one of the forms that answers have. */
export function buildAnswer(
  { type, value, from }: DraftedBody,
  headers: Readonly<Record<string, string>>,
): Record<string, unknown> {
  if (from === 'stand-in') return { headers: { ...headers, 'content-type': type }, base64: value };
  // Made up, it is known to be well-formed.
  const isMarkup = from === 'schema' && XML_TYPE.test(type);
  const isProblem = /^application\/problem\+json/i.test(type) && isJsonMap(value);
  const isJson = JSON_TYPE.test(type) || typeof value !== 'string';
  const isUsual =
    isProblem ||
    (isMarkup && /^application\/xml$/i.test(type)) ||
    (isJson ? /^(application\/json|application\/\*|\*\/\*)$/i.test(type) : /^text\/plain$/i.test(type));
  const own = { ...headers, ...(isUsual ? {} : { 'content-type': type }) };
  return {
    ...(Object.keys(own).length > 0 ? { headers: own } : {}),
    ...(isProblem ? { problem: value } : isJson ? { json: value } : isMarkup ? { xml: value } : { text: value }),
  };
}
