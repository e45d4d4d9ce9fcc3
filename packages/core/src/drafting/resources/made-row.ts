import type { Contract, ContractNode } from '../../contract/contract.js';
import type { ContractOperation } from '../../contract/contract-operation.js';
import { type FlatSchema, flattenFirst } from '../../contract/flat-schema.js';
import { drawPattern } from '../../expression/pattern.js';
import { escapeTemplate, escapeTemplates } from '../../expression/template.js';
import { memberExpression, quote } from '../leaves.js';
import type { ContractResource } from './find-resources.js';
import type { MadeRow } from './make-rows.js';

/** The row that a call creates: what it sends, the key and times that are made, and what the contract asks for besides. */
export function writeMadeRow(
  contract: Contract,
  resource: ContractResource,
  operation: ContractOperation,
  rows: readonly MadeRow[],
): Record<string, unknown> {
  const { flat, key, owners } = resource;
  const sent = sentFields(contract, operation);
  const usual = rows[0] ?? {};
  const row: Record<string, unknown> = {};
  for (const [name, [node]] of flat.properties) {
    const field = node === undefined ? null : flattenFirst(contract, node);
    const value = escapeTemplates(usual[name]);
    if (owners.includes(name)) row[name] = `\${call.path${memberExpression([name])}}`;
    else if (sent?.required.has(name) === true) row[name] = `\${call.json${memberExpression([name])}}`;
    else if (name === key) row[name] = makeKey(resource, field, rows);
    else if (sent?.properties.has(name) === true)
      row[name] = readSent(name, flat.required.has(name) ? value : undefined);
    else if (field?.format === 'date-time') row[name] = '${now}';
    else if (value !== undefined && (flat.required.has(name) || field?.isReadOnly === true)) row[name] = value;
  }
  return row;
}

/** What the body of a call may have; null: it has none that is known. */
export function sentFields(contract: Contract, { body }: ContractOperation): FlatSchema | null {
  const schema = body?.media.find(({ type }) => /json/i.test(type))?.schema ?? null;
  return schema === null ? null : flattenFirst(contract, schema as ContractNode);
}

/** A member that need not be sent. */
function readSent(name: string, value: unknown): string {
  const member = memberExpression([name]).replace(/^\./, '.?').replace(/^\[/, '[?');
  const isPlain = typeof value === 'number' || typeof value === 'boolean';
  const literal = isPlain ? String(value) : typeof value === 'string' ? quote(value) : 'omit';
  return `\${call.json${member}.orValue(${literal})}`;
}

/** One that no row has: counted on, or drawn in the shape that the contract asks for. */
function makeKey({ key, name }: ContractResource, field: FlatSchema | null, rows: readonly MadeRow[]): string {
  const keys = rows.map((row) => row[key]);
  if (keys.length > 0 && keys.every((own) => typeof own === 'number'))
    return `\${next('${name}', ${Math.max(...(keys as number[])) + 1})}`;
  if (field?.types?.has('integer') === true) return `\${next('${name}')}`;
  const counted = countOn(keys, name);
  const pattern = field?.patterns[0]?.replace(/^\^|\$$/g, '');
  if (pattern !== undefined && field?.patterns.length === 1 && isDrawable(pattern))
    return `\${pattern(${quote(pattern)})}`;
  const isShort = (field?.limits.maxLength ?? Number.POSITIVE_INFINITY) < UUID_LENGTH;
  return counted !== null && (field?.format === null || isShort) ? counted : '${uuid()}';
}

const UUID_LENGTH = 36;

/** `B${next('bookings', 6)}` after B1 to B5; null: they do not count alike. */
function countOn(keys: readonly unknown[], name: string): string | null {
  const parts = keys.map((own) => /^(.*?)(\d{1,9})$/.exec(String(own)));
  const [first] = parts;
  if (first === undefined || parts.some((own) => own?.[1] !== first?.[1])) return null;
  const most = Math.max(...parts.map((own) => Number(own?.[2])));
  return `${escapeTemplate(first?.[1] ?? '')}\${next('${name}', ${most + 1})}`;
}

function isDrawable(pattern: string): boolean {
  try {
    return new RegExp(`^(?:${pattern})$`, 'u').test(drawPattern(pattern, 1, 1));
  } catch {
    return false;
  }
}
