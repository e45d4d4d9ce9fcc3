import type { Contract, ContractNode } from '../../contract/contract.js';
import type { ContractMedia, ContractOperation } from '../../contract/contract-operation.js';
import { type FlatSchema, flattenFirst } from '../../contract/flat-schema.js';
import { singularOf } from '../../contract/word-forms.js';
import { uniqueName } from '../unique-name.js';

/** What paths of a contract are a collection of: berths at `/berths`, one of them at `/berths/{berthId}`. */
export interface ContractResource {
  /** Name of the dataset: `berths`. */
  readonly name: string;
  /** One of them: `berth`. */
  readonly noun: string;
  /** `/berths` */
  readonly collection: string;
  /** The parameter of the path that tells them apart: `berthId`. */
  readonly param: string;
  /** The field that it stands for: `id`. */
  readonly key: string;
  /** Fields that parameters of the collection's own path stand for: `imo` of `/vessels/{imo}/visits`. */
  readonly owners: readonly string[];
  /** What one of them is. */
  readonly schema: ContractNode;
  readonly flat: FlatSchema;
  /** The operation that answers one of them, and the one that lists them; null where there is none. */
  readonly read: ContractOperation;
  readonly list: ContractOperation | null;
}

const ITEM = /^(.*\/([^/{}]+))\/\{([^{}]+)\}$/;

/** Collections of things that a contract can read one by one, whose schema has the field that the path names. */
export function findResources(contract: Contract, operations: readonly ContractOperation[]): ContractResource[] {
  const taken = new Set<string>();
  const byPlace = new Map(operations.map((own) => [`${own.method} ${own.path}`, own]));
  return operations.flatMap((read) => {
    const [, collection = '', segment = '', param = ''] = ITEM.exec(read.path) ?? [];
    const list = byPlace.get(`GET ${collection}`) ?? null;
    if (read.method !== 'GET' || param === '' || (list === null && !byPlace.has(`POST ${collection}`))) return [];
    const found = findRow(contract, successOf(read)?.schema ?? null, param);
    const owners = [...collection.matchAll(/\{([^{}]+)\}/g)].map(([, name]) => name ?? '');
    if (found === null || !owners.every((name) => isScalar(contract, found.flat, name))) return [];
    const word = camel(segment);
    if (!/^[A-Za-z]\w*$/.test(word)) return [];
    const name = uniqueName(plain(word), taken, '');
    return [{ ...found, name, noun: plain(singularOf(name)), collection, param, owners, read, list }];
  });
}

/** The JSON that an operation answers with when all is well. */
export function successOf({ responses }: ContractOperation): ContractMedia | null {
  const success = responses.find(({ code }) => code.startsWith('2'));
  return success?.media.find(({ type, schema }) => /json/i.test(type) && schema !== null) ?? null;
}

type FoundRow = Pick<ContractResource, 'schema' | 'flat' | 'key'>;

/** The schema itself where it has the key, else the one member of it that has. */
function findRow(contract: Contract, schema: ContractNode | null, param: string): FoundRow | null {
  if (schema === null) return null;
  const flat = flattenFirst(contract, schema);
  const key = findKey(contract, flat, param);
  if (key !== null) return { schema, flat, key };
  const [member, ...others] = [...flat.properties.values()].flatMap(([node]) =>
    node !== undefined && flattenFirst(contract, node).properties.size > 0 ? [node] : [],
  );
  if (member === undefined || others.length > 0) return null;
  const inner = flattenFirst(contract, member);
  const own = findKey(contract, inner, param);
  return own === null ? null : { schema: member, flat: inner, key: own };
}

/** The field that a parameter of the path stands for: of its name, or `id`. */
function findKey(contract: Contract, flat: FlatSchema, param: string): string | null {
  const names = /id$/i.test(param) ? [param, 'id'] : [param];
  return names.find((name) => isScalar(contract, flat, name)) ?? null;
}

function isScalar(contract: Contract, { properties }: FlatSchema, name: string): boolean {
  const node = properties.get(name)?.[0];
  if (node === undefined) return false;
  const { types } = flattenFirst(contract, node);
  return types === null || types.has('string') || types.has('integer');
}

/** Words that expressions have for themselves (CEL, reserved). */
const RESERVED =
  /^(as|break|const|continue|else|false|for|function|if|import|in|let|loop|namespace|null|package|return|true|var|void|while)$/;

function plain(word: string): string {
  return RESERVED.test(word) ? `${word}Row` : word;
}

function camel(segment: string): string {
  return segment.replaceAll(/[^A-Za-z0-9]+(.)?/g, (_, next: string | undefined) => next?.toUpperCase() ?? '');
}
