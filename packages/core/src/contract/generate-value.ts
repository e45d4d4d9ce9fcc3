import { wordsFor } from '../definition/lexicon.js';
import { drawAt, hashText } from '../state/draw.js';
import { type Contract, type ContractNode, childOf } from './contract.js';
import type { Direction } from './direction.js';
import { findMisfit } from './find-misfit.js';
import { type FlatSchema, flattenOnce, flattenSchema } from './flat-schema.js';
import { generateNumber } from './generate-number.js';
import { generateText } from './generate-text.js';
import { fitsPattern, isWithin } from './given-value.js';
import { memberOf } from './member-of.js';

/** Optional members are left out below this depth, lists are empty where they may be. */
const DEEPEST_OPTIONAL = 5;
const DEEPEST = 20;
const USUAL_ITEMS = 2;
/** Where what the first branches of choices make does not fit (it may fit two), others are tried. */
const MOST_TURNS = 4;
/** About so many values make an answer that people still read; what is optional beyond them is left out, nested first. */
const USUAL_VALUES = 60;

interface Around {
  readonly contract: Contract;
  readonly direction: Direction;
  readonly depth: number;
  /** How many values may stand here and below. */
  readonly budget: number;
  /** References that are open, so that circles end at their first return. */
  readonly refs: readonly string[];
  /** Which of the open branches of choices is taken, and whether there was any choice. */
  readonly choices: { readonly turn: number; isAny: boolean };
}

/**
 * A value that fits a schema, the same each time: what the document gives (example, default, const, enum), then format,
 * name, type and limits. `place` names where the value stands: draws depend on it and on nothing else.
 */
export function generateValue(
  contract: Contract,
  schema: ContractNode,
  place: string,
  direction: Direction = 'response',
): unknown {
  let first: unknown;
  for (let turn = 0; turn < MOST_TURNS; turn++) {
    const choices = { turn, isAny: false };
    const around = { contract, direction, depth: 0, budget: USUAL_VALUES, refs: [], choices };
    const value = generate([schema], place, around);
    if (!choices.isAny || findMisfit(contract, schema, value, direction) === null) return value;
    if (turn === 0) first = value;
  }
  return first;
}

function generate(nodes: readonly ContractNode[], place: string, around: Around): unknown {
  return generateFlat(flatten(nodes, around), nodes, place, around);
}

/** `schema`: what the nodes come to. */
function generateFlat(schema: FlatSchema, nodes: readonly ContractNode[], place: string, around: Around): unknown {
  if (schema.given.length > 0) {
    const given = schema.given.find((value) => isPlausible(value, schema) && fitsAll(value, nodes, around));
    if (given !== undefined) return given;
  }
  if (schema.enum !== null) return schema.enum.find((value) => isPlausible(value, schema)) ?? schema.enum[0] ?? null;
  const word = around.contract.lexicon === null ? undefined : pickWord(schema, place, around);
  if (word !== undefined) return word;
  if (around.depth > DEEPEST) return null;
  switch (typeOf(schema)) {
    case 'object':
      return generateObject(schema, place, goInside(schema, around));
    case 'array':
      return generateList(schema, place, goInside(schema, around));
    case 'string':
      return generateText(schema, place);
    case 'integer':
    case 'number':
      return generateNumber(schema, place);
    case 'boolean':
      return drawAt(hashText(place), 0) % 2 === 0;
    default:
      return null;
  }
}

function goInside({ refs }: FlatSchema, around: Around): Around {
  return { ...around, depth: around.depth + 1, refs: refs.length === 0 ? around.refs : [...around.refs, ...refs] };
}

/** One of the team's words for a member, of those that fit. */
function pickWord(schema: FlatSchema, place: string, { contract, refs }: Around): unknown {
  const field = memberOf(place);
  const owner = /\/([^/]+)$/.exec(refs.at(-1) ?? '')?.[1] ?? null;
  const words = contract.lexicon === null ? [] : wordsFor(contract.lexicon, field, owner);
  const fitting = words.filter((word) => isPlausible(word, schema));
  return fitting[drawAt(hashText(place), 1) % Math.max(1, fitting.length)];
}

/** Of a choice the first branch that is neither null nor a circle; at later turns, one behind it. */
function flatten(nodes: readonly ContractNode[], { contract, refs, choices }: Around): FlatSchema {
  const isOpen = (branch: ContractNode): boolean => {
    const target = contract.resolve(branch);
    const value = target?.value as Readonly<Record<string, unknown>> | null | undefined;
    return value !== null && value !== undefined && value['type'] !== 'null' && !isCircle(branch, refs);
  };
  const choose = (branches: readonly ContractNode[]): ContractNode => {
    choices.isAny = true;
    const open = choices.turn === 0 ? [] : branches.filter(isOpen);
    const own = choices.turn === 0 ? branches.find(isOpen) : open[choices.turn % open.length];
    return own ?? (branches[0] as ContractNode);
  };
  const [only] = nodes;
  return nodes.length === 1 && only !== undefined
    ? flattenOnce(contract, only, choose)
    : flattenSchema(contract, nodes, choose);
}

function isCircle({ value, document }: ContractNode, refs: readonly string[]): boolean {
  const ref = (value as Readonly<Record<string, unknown>> | null)?.['$ref'];
  return typeof ref === 'string' && refs.includes(`${document.address} ${ref}`);
}

/** What is in a list or a map is looked at, too. */
function fitsAll(value: unknown, nodes: readonly ContractNode[], { contract, direction }: Around): boolean {
  if (value === null || typeof value !== 'object') return true;
  return nodes.every((node) => findMisfit(contract, node, value, direction) === null);
}

/** What a document gives is taken where it fits what can be seen at once, its type and limits: documents err. */
function isPlausible(value: unknown, schema: FlatSchema): boolean {
  if (value === undefined) return false;
  const { types, enum: list } = schema;
  if (list !== null && !list.some((item) => JSON.stringify(item) === JSON.stringify(value))) return false;
  return (types === null || types.has(typeNameOf(value))) && isWithin(value, schema);
}

function typeNameOf(value: unknown): string {
  if (value === null) return 'null';
  if (Array.isArray(value)) return 'array';
  return Number.isInteger(value) ? 'integer' : typeof value;
}

const TYPES = ['object', 'array', 'string', 'number', 'integer', 'boolean'];

function typeOf(schema: FlatSchema): string {
  const { types, properties, items, firstItems, limits, patterns, format } = schema;
  if (types !== null) {
    const [only] = types;
    if (types.size === 1) return only ?? 'null';
    return (types.has('number') ? 'number' : TYPES.find((name) => types.has(name))) ?? 'null';
  }
  if (properties.size > 0 || schema.required.size > 0) return 'object';
  if (items.length > 0 || firstItems.length > 0) return 'array';
  if (patterns.length > 0 || format !== null || limits.maxLength !== undefined || limits.minLength !== undefined)
    return 'string';
  return limits.minimum !== undefined || limits.maximum !== undefined ? 'number' : 'object';
}

function generateObject(schema: FlatSchema, place: string, around: Around): Readonly<Record<string, unknown>> {
  const { required, properties, limits } = schema;
  const members = new Map<string, unknown>();
  const names = [...properties.keys()];
  const first = [...names.filter((name) => required.has(name)), ...names.filter((name) => !required.has(name))];
  const most = limits.maxProperties ?? Number.POSITIVE_INFINITY;
  const wanted = new Set(first.slice(0, Math.max(most, required.size)));
  const flats = names.map((name) => flatten(properties.get(name) ?? [], around));
  const below = { ...around, budget: (around.budget - names.length) / Math.max(1, countNested(flats)) };
  for (const [i, name] of names.entries()) {
    const nodes = properties.get(name) ?? [];
    const member = flats[i] as FlatSchema;
    if (!wanted.has(name) || nodes.some(({ value }) => value === false)) continue;
    if (around.direction === 'response' ? member.isWriteOnly : member.isReadOnly) continue;
    if (!required.has(name) && isNested(member)) {
      const isDeep = around.depth > DEEPEST_OPTIONAL || nodes.some((node) => leadsRound(node, around));
      if (isDeep || below.budget < 1) continue;
    }
    members.set(name, generateFlat(member, nodes, `${place}.${name}`, below));
  }
  for (const name of required)
    if (!properties.has(name)) members.set(name, generateUnnamed(name, schema, place, around));
  addUnnamed(members, schema, place, around);
  agreeWithList(members, schema);
  return Object.fromEntries(members);
}

function countNested(schemas: readonly FlatSchema[]): number {
  let found = 0;
  for (const schema of schemas) if (isNested(schema)) found++;
  return found;
}

function isNested(schema: FlatSchema): boolean {
  const type = typeOf(schema);
  return type === 'object' || type === 'array';
}

const COUNT = /^(total|count|size|total_?(count|items|results)|number_?of_?\w+)$/i;

/** A count beside one list is that of its items. */
function agreeWithList(members: Map<string, unknown>, { properties }: FlatSchema): void {
  const lists = [...members.values()].filter(Array.isArray);
  const [list] = lists;
  if (list === undefined || lists.length > 1) return;
  for (const [name, value] of members) {
    const given = (properties.get(name)?.[0]?.value ?? {}) as Readonly<Record<string, unknown>>;
    const isGiven = given['example'] !== undefined || given['const'] !== undefined || given['enum'] !== undefined;
    const least = typeof given['minimum'] === 'number' ? given['minimum'] : 0;
    if (Number.isInteger(value) && COUNT.test(name) && !isGiven && list.length >= least) members.set(name, list.length);
  }
}

/** Whether a member leads back to what it stands in, itself or as the items of a list. */
function leadsRound(node: ContractNode, { contract, refs }: Around): boolean {
  if (isCircle(node, refs)) return true;
  const value = node.value as Readonly<Record<string, unknown>> | null;
  if (value === null || typeof value !== 'object') return false;
  const parts = ['items', 'additionalProperties', 'allOf', 'oneOf', 'anyOf'].flatMap((key) => {
    const child = childOf(node, key);
    if (child === null) return [];
    return Array.isArray(child.value) ? contract.children(child).map(([, item]) => item) : [child];
  });
  return parts.length > 0 && parts.some((part) => leadsRound(part, { contract, refs } as Around));
}

/** Members that a schema has no names for: as many as it asks for; one or two of a map that has no others. */
function addUnnamed(members: Map<string, unknown>, schema: FlatSchema, place: string, around: Around): void {
  const { additional, byPattern, limits, properties } = schema;
  const isMapOnly = properties.size === 0 && ((additional?.length ?? 0) > 0 || byPattern.length > 0);
  const shallow = around.depth <= DEEPEST_OPTIONAL && !(additional ?? []).some((node) => leadsRound(node, around));
  const usual = isMapOnly && shallow ? USUAL_ITEMS : 0;
  const least = Math.min(Math.max(limits.minProperties ?? 0, usual), limits.maxProperties ?? Number.POSITIVE_INFINITY);
  for (let turn = 0; members.size < least && turn < least + 8; turn++) {
    const [pattern] = byPattern;
    const name =
      pattern === undefined
        ? `key${turn + 1}`
        : generateText({ ...schema, patterns: [pattern[0]], limits: {}, format: null }, `${place} key ${turn}`);
    if (pattern === undefined && additional === null) return;
    members.set(name, generateUnnamed(name, schema, place, around));
  }
}

function generateUnnamed(name: string, { byPattern, additional }: FlatSchema, place: string, around: Around): unknown {
  const nodes = byPattern.flatMap(([pattern, node]) => (fitsPattern(pattern, name) ? [node] : []));
  const own = nodes.length > 0 ? nodes : (additional ?? []);
  return own.length === 0 ? name : generate(own, `${place}.${name}`, around);
}

function generateList(schema: FlatSchema, place: string, around: Around): unknown[] {
  const { limits, items, firstItems, isUnique } = schema;
  const least = Math.max(limits.minItems ?? 0, 0);
  const most = limits.maxItems ?? Number.POSITIVE_INFINITY;
  const isDeep = around.depth > DEEPEST_OPTIONAL || items.some((node) => leadsRound(node, around));
  const usual = Math.max(isDeep || items.length === 0 ? 0 : USUAL_ITEMS, firstItems.length);
  const count = Math.min(most, Math.max(least, usual));
  const list: unknown[] = [];
  const each = { ...around, budget: around.budget / Math.max(1, count) };
  for (let turn = 0; list.length < count && turn < count * 4; turn++) {
    const first = firstItems[list.length];
    const nodes = first === undefined ? items : [first];
    const item = nodes.length === 0 ? `item ${turn + 1}` : generate(nodes, `${place}[${turn}]`, each);
    const isTwin = isUnique && list.some((other) => JSON.stringify(other) === JSON.stringify(item));
    if (!isTwin) list.push(item);
    else if (list.length >= least && turn >= count) break;
  }
  return isUnique && list.length < least ? fillUnique(list, schema, least, around) : list;
}

/** Distinct values of an enumeration, where drawing gave too few. */
function fillUnique(list: readonly unknown[], { items }: FlatSchema, least: number, around: Around): unknown[] {
  const values = flatten(items, around).enum ?? [];
  const filled = [...list];
  for (const value of values) {
    if (filled.length >= least) break;
    if (!filled.some((other) => JSON.stringify(other) === JSON.stringify(value))) filled.push(value);
  }
  return filled;
}
