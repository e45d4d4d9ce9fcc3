import { isJsonMap } from '../../definition/json-map.js';
import { type Contract, type ContractNode, childOf } from '../contract.js';

/** What texts have to know of a schema to become values of it. */
export interface SchemaKind {
  /** The types it allows, of all its branches; empty: it does not say. */
  readonly types: ReadonlySet<string>;
  readonly item: SchemaKind | null;
  readonly members: ReadonlyMap<string, SchemaKind>;
}

const NOTHING: SchemaKind = { types: new Set(), item: null, members: new Map() };
/** Texts are no deeper: what lies below is left as it is. */
const DEEPEST = 4;

export function readSchemaKind(contract: Contract, schema: ContractNode | null, depth = 0): SchemaKind {
  if (schema === null || depth > DEEPEST) return NOTHING;
  const gathered = { types: new Set<string>(), items: [] as ContractNode[], members: new Map<string, ContractNode>() };
  gather(contract, schema, gathered, 0);
  const [item] = gathered.items;
  return {
    types: gathered.types,
    item: item === undefined ? null : readSchemaKind(contract, item, depth + 1),
    members: new Map(
      [...gathered.members].map(([name, member]) => [name, readSchemaKind(contract, member, depth + 1)] as const),
    ),
  };
}

interface Gathered {
  readonly types: Set<string>;
  readonly items: ContractNode[];
  readonly members: Map<string, ContractNode>;
}

function gather(contract: Contract, schema: ContractNode, into: Gathered, depth: number): void {
  const node = contract.resolve(schema);
  if (node === null || !isJsonMap(node.value) || depth > DEEPEST) return;
  const { type, enum: choices, const: only, properties, items, nullable } = node.value;
  for (const own of Array.isArray(type) ? type : type === undefined ? [] : [type]) into.types.add(String(own));
  if (nullable === true) into.types.add('null');
  if (type === undefined)
    for (const value of [...(Array.isArray(choices) ? choices : []), ...(only === undefined ? [] : [only])])
      into.types.add(typeOfValue(value));
  const item = items === undefined ? null : childOf(node, 'items');
  if (item !== null) {
    into.items.push(item);
    into.types.add('array');
  }
  if (isJsonMap(properties)) into.types.add('object');
  for (const [name, member] of contract.children(childOf(node, 'properties'))) into.members.set(name, member);
  for (const key of ['allOf', 'anyOf', 'oneOf'])
    for (const [, branch] of contract.children(childOf(node, key))) gather(contract, branch, into, depth + 1);
}

function typeOfValue(value: unknown): string {
  if (value === null) return 'null';
  return Array.isArray(value) ? 'array' : typeof value;
}

const NUMBER = /^-?\d+(\.\d+)?([eE][+-]?\d+)?$/;

/** A text as the value of a kind that it can be: texts of digits are numbers only where numbers may stand. */
export function textToValue(text: string, { types }: SchemaKind): unknown {
  if (types.has('object') && !types.has('string') && text.startsWith('{')) return tryMap(text);
  if ((types.has('integer') || types.has('number')) && NUMBER.test(text)) return Number(text);
  if (types.has('boolean') && (text === 'true' || text === 'false')) return text === 'true';
  if (types.has('null') && !types.has('string') && (text === '' || text === 'null')) return null;
  return text;
}

/** What the styles of parameters have no way of writing, such as lists of maps, is written as JSON. */
function tryMap(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}
