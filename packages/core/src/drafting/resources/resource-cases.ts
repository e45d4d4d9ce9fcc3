import type { Contract } from '../../contract/contract.js';
import type { ContractOperation } from '../../contract/contract-operation.js';
import { isJsonMap } from '../../definition/json-map.js';
import type { RowPick } from '../../definition/row-pick.js';
import type { ContractCase } from '../contract-cases.js';
import { isSame, memberExpression, quote } from '../leaves.js';
import { type FillWith, fillAnswer } from './fill-answer.js';
import type { ContractResource } from './find-resources.js';
import { listRows } from './list-rows.js';
import { sentFields, writeMadeRow } from './made-row.js';
import type { ResourceRows } from './relate-rows.js';

/** What an operation is to a resource; `below`: it is about one of them, as `POST /bookings/{id}/release` is. */
export type ResourceRole = 'list' | 'create' | 'read' | 'replace' | 'change' | 'remove' | 'below';

const ITEM_ROLES: Readonly<Record<string, ResourceRole>> = {
  GET: 'read',
  PUT: 'replace',
  PATCH: 'change',
  DELETE: 'remove',
};

/** What an operation is to one of the resources; null: nothing. */
export function findRole(
  { method, path }: ContractOperation,
  all: readonly ResourceRows[],
): { readonly own: ResourceRows; readonly role: ResourceRole } | null {
  const inside = all.filter(({ resource }) => path === resource.collection || path.startsWith(`${itemOf(resource)}`));
  // Of resources within resources the innermost is meant.
  const [own] = inside.sort((a, b) => b.resource.collection.length - a.resource.collection.length);
  if (own === undefined) return null;
  const { collection } = own.resource;
  if (path === collection)
    return method === 'GET' || method === 'POST' ? { own, role: method === 'GET' ? 'list' : 'create' } : null;
  if (path !== itemOf(own.resource)) return path.startsWith(`${itemOf(own.resource)}/`) ? { own, role: 'below' } : null;
  const role = ITEM_ROLES[method];
  return role === undefined ? null : { own, role };
}

function itemOf({ collection, param }: ContractResource): string {
  return `${collection}/{${param}}`;
}

/** The cases of an operation that reads or changes rows, made of those that the contract alone gives. */
export interface ResourceCases {
  readonly row: RowPick | null;
  readonly cases: readonly ContractCase[];
}

type Definition = Readonly<Record<string, unknown>>;

/** What an operation changes and answers in the place of what was made up. */
interface Effect {
  readonly name: string;
  readonly lets?: Definition;
  readonly steps?: readonly Definition[];
  readonly using: FillWith;
}

export function draftResourceCases(
  contract: Contract,
  operation: ContractOperation,
  { own, role }: { readonly own: ResourceRows; readonly role: ResourceRole },
  cases: readonly ContractCase[],
): ResourceCases {
  const { resource } = own;
  const fallback = cases.at(-1);
  if (fallback === undefined || !fallback.code.startsWith('2')) return { row: null, cases };
  const effect = effectOf(contract, operation, own, role);
  const answer = withPlace(fillCase(contract, operation, resource, fallback, effect.using), operation, resource, role);
  const callbacks = (fallback.definition['then'] ?? []) as readonly Definition[];
  const steps = [...(effect.steps ?? []), ...callbacks];
  const name = role === 'below' ? null : effect.name;
  const found = toCase(fallback, { ...effect, name, answer, ...(steps.length === 0 ? {} : { steps }) });
  // What examples say of single ones, their rows say.
  const refusals = cases.slice(0, -1).filter(({ code }) => !code.startsWith('2'));
  if (role === 'list' || role === 'create') return { row: null, cases: [...refusals, found] };
  const isRead = effect.steps !== undefined || answer !== fallback.definition['answer'];
  const all = withMissing(refusals, found, isRead ? fallback : null, resource);
  const isAsked = isRead || refusals.some(({ code }) => code === '404');
  return { row: isAsked ? { of: resource.name, where: whereOf(resource) } : null, cases: all };
}

/** A case as people write it, with what an effect adds. `name` null: as it was. */
function toCase(
  item: ContractCase,
  {
    name,
    when,
    lets,
    answer,
    steps,
  }: Partial<Omit<Effect, 'name'>> & { name: string | null; when?: Definition; answer: unknown },
): ContractCase {
  return {
    ...item,
    definition: {
      case: name ?? item.definition['case'],
      ...(when === undefined ? {} : { when }),
      ...(lets === undefined ? {} : { let: lets }),
      answer,
      // biome-ignore lint/suspicious/noThenProperty: the word of the service file; a case is never awaited
      ...(steps === undefined ? {} : { then: steps }),
    },
  };
}

/** An id that no row has gets the contract's 404; where it has none, `otherwise`: what was made up for any id. */
function withMissing(
  refusals: readonly ContractCase[],
  found: ContractCase,
  otherwise: ContractCase | null,
  { noun }: ContractResource,
): ContractCase[] {
  const missing = refusals.find(({ code }) => code === '404');
  if (missing !== undefined) {
    const name = `no such ${noun}`;
    const none = toCase(missing, { name, when: { row: { present: false } }, answer: missing.definition['answer'] });
    return [...refusals.filter(({ code }) => code !== '404'), none, found];
  }
  if (otherwise === null) return [...refusals, found];
  const { case: name, ...rest } = found.definition;
  const own = name === otherwise.definition['case'] ? `${noun} is there` : name;
  return [...refusals, { ...found, definition: { case: own, when: { row: { present: true } }, ...rest } }, otherwise];
}

function whereOf({ key, param, owners }: ContractResource): Record<string, string> {
  const read = (name: string) => `\${call.path${memberExpression([name])}}`;
  return Object.fromEntries([...owners.map((owner) => [owner, read(owner)]), [key, read(param)]]);
}

const ROW: FillWith = { row: 'row', rows: null, total: null, fields: true };

function effectOf(
  contract: Contract,
  operation: ContractOperation,
  { resource, rows }: ResourceRows,
  role: ResourceRole,
): Effect {
  const { name, noun, key, owners } = resource;
  const own: FillWith = { ...ROW, row: `let.${noun}` };
  if (role === 'list') {
    const { lets, rows: listed, total } = listRows(contract, resource, operation);
    return { name: 'listed', lets, using: { row: null, rows: listed, total, fields: false } };
  }
  if (role === 'create') {
    const lets = { [noun]: writeMadeRow(contract, resource, operation, rows) };
    return { name: 'created', lets, steps: [{ insert: { into: name, row: `\${let.${noun}}` } }], using: own };
  }
  const where = whereOf(resource);
  if (role === 'remove') return { name: 'removed', steps: [{ remove: { of: name, where } }], using: ROW };
  const sent = role === 'replace' || role === 'change' ? sentFields(contract, operation) : null;
  if (sent === null) return { name: 'found', using: { ...ROW, fields: role !== 'below' } };
  const kept = `{${[...owners, key].map((field) => `${quote(field)}: row${memberExpression([field])}`).join(', ')}}`;
  const before = role === 'change' ? 'row' : withoutFields('row', [...sent.properties.keys()]);
  return {
    name: role === 'change' ? 'changed' : 'replaced',
    lets: { [noun]: `\${merge(merge(${before}, call.json), ${kept})}` },
    steps: [{ replace: { of: name, where, row: `\${let.${noun}}` } }],
    using: own,
  };
}

/** `without()` takes so many. */
const MOST_FIELDS = 8;

function withoutFields(value: string, fields: readonly string[]): string {
  let text = value;
  for (let at = 0; at < fields.length; at += MOST_FIELDS)
    text = `without(${[text, ...fields.slice(at, at + MOST_FIELDS).map(quote)].join(', ')})`;
  return text;
}

function fillCase(
  contract: Contract,
  operation: ContractOperation,
  resource: ContractResource,
  { definition, code }: ContractCase,
  using: FillWith,
): unknown {
  const answer = definition['answer'];
  const response = operation.responses.find((own) => own.code === code);
  const schema = response?.media.find(({ type }) => /json/i.test(type))?.schema ?? null;
  if (!isJsonMap(answer) || !('json' in answer) || schema === null) return answer;
  const json = fillAnswer(answer['json'], schema, contract, resource, using);
  return isSame(json, answer['json']) ? answer : { ...answer, json };
}

/** Where what was created can be read. */
function withPlace(
  answer: unknown,
  { path }: ContractOperation,
  { noun, key }: ContractResource,
  role: ResourceRole,
): unknown {
  const headers = isJsonMap(answer) ? answer['headers'] : undefined;
  if (role !== 'create' || !isJsonMap(answer) || !isJsonMap(headers) || headers['location'] === undefined)
    return answer;
  const own = path.replaceAll(/\{([^{}]+)\}/g, (_, name: string) => `\${call.path${memberExpression([name])}}`);
  const location = `${own}/\${let.${noun}${memberExpression([key])}}`;
  return { ...answer, headers: { ...headers, location } };
}
