import type { Contract } from '../contract/contract.js';
import type { ContractOperation } from '../contract/contract-operation.js';
import { flattenFirst } from '../contract/flat-schema.js';
import { memberExpression } from './leaves.js';

type When = Readonly<Record<string, unknown>>;

/** The conditions under which a contract's own refusals are answered, by their codes; null where the call cannot say it. */
export function findRefusal(
  code: string,
  operation: ContractOperation,
  contract: Contract,
  codes: readonly string[],
): When | null {
  if (code === '401') return withoutCredentials(operation);
  const isInvalid = code === '400' || code === '422' || (/^4XX$/i.test(code) && !codes.includes('400'));
  if (!isInvalid) return null;
  const parameters = missingParameters(operation);
  const members = missingMembers(operation, contract);
  const isSplit = codes.includes('400') && codes.includes('422');
  const tests = isSplit ? (code === '422' ? members : parameters) : [...parameters, ...members];
  return tests.length === 0 ? null : { expr: tests.join(' || ') };
}

/** None of the ways in which credentials may be sent is taken. */
function withoutCredentials({ security }: ContractOperation): When | null {
  const places = security.map((schemes) => schemes.flatMap(({ place }) => place ?? [])[0] ?? null);
  const [first] = places;
  if (first === undefined || first === null || places.includes(null)) return null;
  const distinct = [...new Set(places as string[])];
  if (distinct.length === 1) return { [first]: { present: false } };
  return Object.fromEntries(distinct.map((place) => [place, { present: false }]));
}

const GROUPS = { query: 'query', header: 'headers', cookie: 'cookies' } as const;

function missingParameters({ parameters }: ContractOperation): string[] {
  return parameters.flatMap(({ place, name, isRequired }) => {
    if (!isRequired || place === 'path') return [];
    const member = memberExpression([place === 'header' ? name.toLowerCase() : name]);
    return [`call.${GROUPS[place]}${member} == null`];
  });
}

/** The body, or a member that it must have, is not there. */
function missingMembers({ body }: ContractOperation, contract: Contract): string[] {
  const json = body?.media.find(({ type }) => /json/i.test(type));
  if (body === null || !body.isRequired || json === undefined) return [];
  const schema = json.schema === null ? null : flattenFirst(contract, json.schema);
  const isChoice = json.schema !== null && hasChoice(contract, json.schema);
  const names = schema === null || isChoice ? [] : [...schema.required];
  const required = names.filter((name) => !isAnswered(contract, schema?.properties.get(name)?.[0] ?? null));
  return ['call.json == null', ...required.map((name) => `call.json${memberExpression([name])} == null`)];
}

/** A member that only answers have is not missed. */
function isAnswered(contract: Contract, member: Parameters<Contract['resolve']>[0]): boolean {
  const target = member === null ? null : contract.resolve(member);
  return (target?.value as { readonly readOnly?: unknown } | null)?.readOnly === true;
}

/** What is required depends on the branch that is meant. */
function hasChoice(contract: Contract, schema: Parameters<Contract['resolve']>[0]): boolean {
  const target = contract.resolve(schema);
  const value = (target?.value ?? {}) as Readonly<Record<string, unknown>>;
  return value['oneOf'] !== undefined || value['anyOf'] !== undefined;
}
