import type { Contract, ContractNode } from '../../contract/contract.js';
import { type FlatSchema, flattenFirst, placeOfSchema } from '../../contract/flat-schema.js';
import { isJsonMap } from '../../definition/json-map.js';
import { memberExpression, quote } from '../leaves.js';
import type { ContractResource } from './find-resources.js';

/** What stands for one row, for the rows that are listed, and for how many there are: expressions. */
export interface FillWith {
  readonly row: string | null;
  readonly rows: string | null;
  readonly total: string | null;
  /** Whether fields of an answer that are called as those of the row are the row's: not where it is about something else. */
  readonly fields: boolean;
}

/** Members are looked into this deep. */
const DEEPEST = 2;
const COUNTS = /^(total|count|total_?count|total_?items|total_?results)$/i;

/**
 * An answer with rows in the place of what was made up: where its schema has the resource itself, a list of it, or fields
 * of it. What else there is stays as it was.
 */
export function fillAnswer(
  json: unknown,
  schema: ContractNode,
  contract: Contract,
  resource: ContractResource,
  using: FillWith,
): unknown {
  const own = placeOfSchema(contract, resource.schema);
  const fill = (value: unknown, node: ContractNode, depth: number): unknown => {
    if (using.row !== null && placeOfSchema(contract, node) === own) return `\${${using.row}}`;
    const flat = flattenFirst(contract, node);
    const [item] = flat.items;
    if (Array.isArray(value) && item !== undefined && using.rows !== null) {
      const listed = listRows(item, contract, resource, using.rows);
      return listed === null ? value : `\${${listed}}`;
    }
    if (!isJsonMap(value)) return value;
    const members = Object.entries(value).map(([name, member]) => {
      const inner = flat.properties.get(name)?.[0];
      if (inner === undefined) return [name, member];
      if (using.total !== null && COUNTS.test(name) && Number.isInteger(member)) return [name, `\${${using.total}}`];
      const isField = using.fields && depth === 0 && using.row !== null && isScalar(member);
      if (isField && isShared(name, flat, contract, resource))
        return [name, `\${${using.row}${readField(name, resource)}}`];
      return [name, depth < DEEPEST ? fill(member, inner, depth + 1) : member];
    });
    return Object.fromEntries(members);
  };
  return fill(json, schema, 0);
}

/** A field that a row has as well, of the same type, and always where the answer always has it. */
function isShared(name: string, answer: FlatSchema, contract: Contract, { flat }: ContractResource): boolean {
  const [own] = flat.properties.get(name) ?? [];
  const [other] = answer.properties.get(name) ?? [];
  if (own === undefined || other === undefined) return false;
  if (answer.required.has(name) && !flat.required.has(name)) return false;
  const typesOf = (node: ContractNode): string => [...(flattenFirst(contract, node).types ?? [])].sort().join();
  return typesOf(own) === typesOf(other);
}

/** The rows as a list has them: whole, or those of their fields that the list's items have; null: it lists something else. */
function listRows(item: ContractNode, contract: Contract, resource: ContractResource, rows: string): string | null {
  if (placeOfSchema(contract, item) === placeOfSchema(contract, resource.schema)) return rows;
  const flat = flattenFirst(contract, item);
  const { properties, required } = flat;
  if (!properties.has(resource.key) || ![...required].every((name) => resource.flat.required.has(name))) return null;
  const fields = [...properties.keys()].filter((name) => isShared(name, flat, contract, resource));
  if (!fields.includes(resource.key)) return null;
  const members = fields.map((name) => `${quote(name)}: item${readField(name, resource)}`);
  return `${rows}.map(item, {${members.join(', ')}})`;
}

/** What a row need not have is left out where it has it not. */
function readField(name: string, { flat, key }: ContractResource): string {
  const member = memberExpression([name]);
  if (flat.required.has(name) || name === key) return member;
  return `${member.replace(/^\./, '.?').replace(/^\[/, '[?')}.orValue(omit)`;
}

function isScalar(value: unknown): boolean {
  return value === null || typeof value !== 'object';
}
