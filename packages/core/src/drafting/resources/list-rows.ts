import type { Contract } from '../../contract/contract.js';
import type { ContractOperation, ContractParameter } from '../../contract/contract-operation.js';
import { flattenFirst } from '../../contract/flat-schema.js';
import { memberExpression } from '../leaves.js';
import type { ContractResource } from './find-resources.js';

const LIMIT = /^(limit|per_?page|page_?size|max_?results)$/i;
const OFFSET = /^(offset|skip)$/i;
const PAGE = /^page(_?number)?$/i;

/** What a list's operation reads of the call: `let`, and the names of what is shown and of all that fit. */
export interface ListedRows {
  readonly lets: Readonly<Record<string, string>>;
  readonly rows: string;
  readonly total: string;
}

/** Rows that fit what the call asks for: parameters named for fields filter, the usual ones give a page. */
export function listRows(
  contract: Contract,
  resource: ContractResource,
  { parameters }: ContractOperation,
): ListedRows {
  const { name, owners, flat } = resource;
  const asked = parameters.filter(({ place }) => place === 'query');
  const isFilter = (own: ContractParameter): boolean => {
    const node = flat.properties.get(own.name)?.[0];
    return (
      node !== undefined && !['object', 'array'].some((type) => flattenFirst(contract, node).types?.has(type) === true)
    );
  };
  const tests = [
    ...owners.map((owner) => `string(item${memberExpression([owner])}) == call.path${memberExpression([owner])}`),
    ...asked.filter(isFilter).map(({ name: field }) => {
      const read = memberExpression([field]);
      return `(call.query${read} == null || string(item${read}) == call.query${read})`;
    }),
  ];
  const found = tests.length === 0 ? `data.${name}` : `data.${name}.filter(item, ${tests.join(' && ')})`;
  const named = (words: RegExp) => asked.find((own) => words.test(own.name) && !isFilter(own)) ?? null;
  const limit = named(LIMIT);
  if (limit === null) return { lets: { [name]: `\${${found}}` }, rows: `let.${name}`, total: `size(let.${name})` };
  const offset = named(OFFSET);
  const page = named(PAGE);
  const from =
    offset !== null
      ? readNumber(offset, contract, '0')
      : page !== null
        ? `(${readNumber(page, contract, '1')} - 1) * let.most`
        : '0';
  const lets = {
    found: `\${${found}}`,
    most: `\${${readNumber(limit, contract, 'size(let.found)')}}`,
    from: `\${${from}}`,
    [name]: '${slice(let.found, let.from, let.from + let.most)}',
  };
  return { lets, rows: `let.${name}`, total: 'size(let.found)' };
}

/** A parameter that is a number; what is none counts as the contract's default. */
function readNumber({ name, schema }: ContractParameter, contract: Contract, otherwise: string): string {
  const read = `call.query${memberExpression([name])}`;
  const value =
    schema === null ? undefined : (contract.resolve(schema)?.value as { default?: unknown } | undefined)?.default;
  const usual = Number.isInteger(value) ? String(value) : otherwise;
  return `(${read} != null && ${read}.matches('^[0-9]{1,6}$') ? number(${read}) : ${usual})`;
}
