import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import { type Contract, type ContractNode, childOf, refOf } from './contract.js';
import type { Direction } from './direction.js';
import { fitsFormat, fitsPattern } from './given-value.js';

/** Why a value does not fit: where in it, and what is wrong. */
export interface Misfit {
  /** `$.vessel.imo` */
  readonly at: string;
  readonly message: string;
}

/** Examples are as deep as people write them; circles without a value to go down end here. */
const DEEPEST = 60;

interface Looking {
  readonly contract: Contract;
  readonly direction: Direction;
  readonly depth: number;
  readonly at: string;
}

/**
 * Why a value that a document gives does not fit its schema; null: it does, as far as the usual keywords say. Nothing is
 * compiled for it: drafts look at thousands of examples once each. What calls and answers are held against is `SchemaValidator`.
 */
export function findMisfit(
  contract: Contract,
  schema: ContractNode,
  value: unknown,
  direction: Direction,
): Misfit | null {
  return look(schema, value, { contract, direction, depth: 0, at: '$' });
}

function look(node: ContractNode, value: unknown, looking: Looking): Misfit | null {
  const { contract, depth, at } = looking;
  if (node.value === false) return { at, message: 'must not be there' };
  if (!isJsonMap(node.value) || depth > DEEPEST) return null;
  const inside = { ...looking, depth: depth + 1 };
  if (refOf(node.value) !== null) {
    const target = contract.resolve(node);
    const misfit = target === null ? null : look(target, value, inside);
    // Beside a reference other keywords count since 3.1 only.
    if (misfit !== null || contract.dialect !== '3.1') return misfit;
  }
  const schema = node.value;
  if (value === null && (schema['nullable'] === true || schema['x-nullable'] === true)) return null;
  const message = messageOf(schema, value);
  if (message !== null) return { at, message };
  return lookAtParts(node, schema, value, inside) ?? lookAtBranches(node, value, inside);
}

function lookAtParts(node: ContractNode, schema: JsonMap, value: unknown, looking: Looking): Misfit | null {
  if (Array.isArray(value)) return lookAtItems(node, schema, value, looking);
  return isJsonMap(value) ? lookAtMembers(node, schema, value, looking) : null;
}

function lookAtBranches(node: ContractNode, value: unknown, looking: Looking): Misfit | null {
  const { contract, at } = looking;
  const branches = (key: string) => contract.children(childOf(node, key)).map(([, branch]) => branch);
  for (const part of branches('allOf')) {
    const misfit = look(part, value, looking);
    if (misfit !== null) return misfit;
  }
  const isTold = childOf(node, 'discriminator') !== null;
  for (const key of ['anyOf', 'oneOf']) {
    const own = branches(key);
    if (own.length === 0) continue;
    const misfits = own.map((branch) => look(branch, value, looking));
    const fitting = misfits.filter((misfit) => misfit === null).length;
    if (fitting === 0)
      return own.length === 1 && misfits[0] != null ? misfits[0] : { at, message: `fits no branch of ${key}` };
    // Which branch is meant, a discriminator says: that others would hold as well is no fault.
    if (key === 'oneOf' && fitting > 1 && !isTold) return { at, message: `fits ${fitting} branches of oneOf` };
  }
  return null;
}

function lookAtItems(node: ContractNode, schema: JsonMap, list: readonly unknown[], looking: Looking): Misfit | null {
  const { contract, at } = looking;
  const items = childOf(node, 'items');
  const isOld = items !== null && Array.isArray(items.value);
  const first = contract.children(isOld ? items : childOf(node, 'prefixItems')).map(([, item]) => item);
  const rest = isOld ? childOf(node, 'additionalItems') : items;
  if (schema['uniqueItems'] === true && new Set(list.map((item) => JSON.stringify(item))).size < list.length)
    return { at, message: 'has items twice' };
  for (const [i, item] of list.entries()) {
    const own = first[i] ?? rest;
    const misfit = own === null ? null : look(own, item, { ...looking, at: `${at}[${i}]` });
    if (misfit !== null) return misfit;
  }
  return null;
}

function lookAtMembers(node: ContractNode, schema: JsonMap, map: JsonMap, looking: Looking): Misfit | null {
  const { contract, at, direction } = looking;
  const properties = childOf(node, 'properties');
  const others = direction === 'response' ? 'writeOnly' : 'readOnly';
  for (const name of Array.isArray(schema['required']) ? schema['required'].map(String) : []) {
    if (Object.hasOwn(map, name)) continue;
    const member = properties === null ? null : contract.resolve(childOf(properties, name));
    if (!isJsonMap(member?.value) || member.value[others] !== true)
      return { at: `${at}.${name}`, message: 'is missing' };
  }
  const patterns = contract.children(childOf(node, 'patternProperties'));
  const additional = childOf(node, 'additionalProperties');
  for (const [name, value] of Object.entries(map)) {
    const own = properties === null ? null : childOf(properties, name);
    const fitting = [
      ...(own === null ? [] : [own]),
      ...patterns.flatMap(([key, part]) => (fitsPattern(key, name) ? [part] : [])),
    ];
    for (const part of fitting.length > 0 || additional === null ? fitting : [additional]) {
      const misfit = look(part, value, { ...looking, at: `${at}.${name}` });
      if (misfit !== null) return misfit;
    }
  }
  return null;
}

/** What is wrong with a value itself, whatever is in it. */
function messageOf(schema: JsonMap, value: unknown): string | null {
  const { type, enum: list } = schema;
  const types = typeof type === 'string' ? [type] : Array.isArray(type) ? type.map(String) : null;
  if (types !== null && !types.includes('file') && !types.some((name) => isOfType(value, name)))
    return `is not of the type ${types.join(' or ')}`;
  const isSame = (other: unknown) => JSON.stringify(other) === JSON.stringify(value);
  if (Array.isArray(list) && !list.some(isSame)) return 'is none of the values that are allowed';
  if (Object.hasOwn(schema, 'const') && !isSame(schema['const'])) return 'is not the one value that is allowed';
  if (typeof value === 'string') return messageOfText(schema, value);
  if (typeof value === 'number') return messageOfNumber(schema, value);
  const size = Array.isArray(value) ? value.length : isJsonMap(value) ? Object.keys(value).length : null;
  const word = Array.isArray(value) ? 'Items' : 'Properties';
  return size === null ? null : messageOfSize(schema, size, word);
}

function isOfType(value: unknown, type: string): boolean {
  if (type === 'null') return value === null;
  if (type === 'integer') return Number.isInteger(value);
  if (type === 'array') return Array.isArray(value);
  if (type === 'object') return isJsonMap(value);
  return typeof value === type;
}

function messageOfText(schema: JsonMap, value: string): string | null {
  const { pattern, format } = schema;
  if (typeof pattern === 'string' && !fitsPattern(pattern, value)) return `does not fit the pattern ${pattern}`;
  if (typeof format === 'string' && !fitsFormat(format, value)) return `is no ${format}`;
  return messageOfSize(schema, [...value].length, 'Length');
}

function messageOfNumber(schema: JsonMap, value: number): string | null {
  const { minimum, maximum, exclusiveMinimum: above, exclusiveMaximum: below, multipleOf } = schema;
  const least = typeof minimum === 'number' ? minimum : Number.NEGATIVE_INFINITY;
  const most = typeof maximum === 'number' ? maximum : Number.POSITIVE_INFINITY;
  if (value < least || (above === true && value === least)) return `is too small, ${least} is the limit`;
  if (value > most || (below === true && value === most)) return `is too large, ${most} is the limit`;
  if (typeof above === 'number' && value <= above) return `is not above ${above}`;
  if (typeof below === 'number' && value >= below) return `is not below ${below}`;
  const parts = typeof multipleOf === 'number' ? value / multipleOf : 0;
  return Number.isInteger(parts) ? null : `is no multiple of ${multipleOf}`;
}

function messageOfSize(schema: JsonMap, size: number, word: 'Length' | 'Items' | 'Properties'): string | null {
  const [least, most] = [schema[`min${word}`], schema[`max${word}`]];
  if (typeof least === 'number' && size < least) return `is too short, ${least} is the least`;
  return typeof most === 'number' && size > most ? `is too long, ${most} is the most` : null;
}
