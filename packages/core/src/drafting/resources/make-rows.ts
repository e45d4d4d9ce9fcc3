import type { Contract, ContractNode } from '../../contract/contract.js';
import { type FlatSchema, flattenFirst } from '../../contract/flat-schema.js';
import { generateNumber } from '../../contract/generate-number.js';
import { generateText } from '../../contract/generate-text.js';
import { generateValue } from '../../contract/generate-value.js';
import { isWithin } from '../../contract/given-value.js';
import { isJsonMap } from '../../definition/json-map.js';
import { type ContractResource, successOf } from './find-resources.js';

export type MadeRow = Readonly<Record<string, unknown>>;

/** How often another key is tried where one is taken. */
const MOST_TRIES = 40;

/** So many rows of a resource: those that the contract gives as examples, then made up; each valid, each with a key of its own. */
export function makeRows(contract: Contract, resource: ContractResource, count: number): MadeRow[] {
  const rows = new Map<string, MadeRow>();
  const identify = (row: MadeRow): string =>
    JSON.stringify([...resource.owners, resource.key].map((name) => row[name]));
  for (const row of exampleRows(resource))
    if (rows.size < count && !rows.has(identify(row))) rows.set(identify(row), row);
  for (let turn = 0; rows.size < count && turn < count + MOST_TRIES; turn++) {
    const row = makeRow(contract, resource, turn, [...rows.values()]);
    if (!rows.has(identify(row))) rows.set(identify(row), row);
  }
  return [...rows.values()];
}

/** What examples of one of them show, and those of their list, as far as they are whole. */
function exampleRows({ read, list, key, owners, flat }: ContractResource): MadeRow[] {
  const given = [read, list].flatMap((own) => (own === null ? [] : (successOf(own)?.examples ?? [])));
  const isRow = (value: unknown): value is MadeRow =>
    isJsonMap(value) &&
    [...owners, key].every((name) => ['string', 'number'].includes(typeof value[name])) &&
    [...flat.required].every((name) => value[name] !== undefined);
  return given.flatMap(({ value }) => {
    const inside = isJsonMap(value) ? Object.values(value) : [];
    return [value, ...inside].flatMap((part) => (Array.isArray(part) ? part : [part])).filter(isRow);
  });
}

function makeRow(contract: Contract, resource: ContractResource, turn: number, before: readonly MadeRow[]): MadeRow {
  const { collection, schema, flat, key, owners } = resource;
  const place = `${collection}[${turn}]`;
  const made = generateValue(contract, schema, place);
  const row: Record<string, unknown> = isJsonMap(made) ? { ...made } : {};
  for (const [name, [node]] of flat.properties)
    if (node !== undefined && name in row) row[name] = vary(flattenFirst(contract, node), row[name], turn);
  for (const name of [...owners, key])
    row[name] ??= generateValue(contract, flat.properties.get(name)?.[0] as ContractNode, `${place}.${name}`);
  const last = before.at(-1)?.[key] ?? row[key];
  row[key] = makeKey(
    resource,
    flattenFirst(contract, flat.properties.get(key)?.[0] as ContractNode),
    last,
    turn,
    before.length,
  );
  return row;
}

/** Of an enumeration, or of several examples, each row has another one. */
function vary({ enum: list, given }: FlatSchema, made: unknown, turn: number): unknown {
  const several = list ?? (given.length > 1 ? given : null);
  if (several === null || (several[0] !== null && typeof several[0] === 'object')) return made;
  return several.length === 0 ? made : several[turn % several.length];
}

/** One that follows the last, where it is counted and may go on; else one of its own. */
function makeKey(
  { name, noun }: ContractResource,
  flat: FlatSchema,
  last: unknown,
  turn: number,
  before: number,
): unknown {
  const next = follow(last, before > 0);
  if (next !== null && flat.format === null && isAllowed(next, flat)) return next;
  const place = `${name} ${noun} ${turn}`;
  if (typeof last === 'number') return generateNumber(flat, place);
  if (flat.enum !== null) return flat.enum[turn % flat.enum.length];
  const isFree = flat.format === null && flat.patterns.length === 0;
  const counted = `${noun.charAt(0).toUpperCase()}${turn + 1}`;
  return isFree && isWithin(counted, flat) ? counted : generateText(flat, place);
}

function isAllowed(value: unknown, flat: FlatSchema): boolean {
  return isWithin(value, flat) && (flat.enum === null || flat.enum.includes(value));
}

/** N7 -> N8, 41 -> 42; null: it is not counted. `isTaken`: whether there is one of it already. */
function follow(last: unknown, isTaken: boolean): unknown {
  const step = isTaken ? 1 : 0;
  if (typeof last === 'number') return last + step;
  const [, head = '', digits = ''] = /^(.*?)(\d{1,9})$/.exec(String(last)) ?? [];
  if (digits === '') return null;
  return `${head}${String(Number(digits) + step).padStart(digits.length, '0')}`;
}
