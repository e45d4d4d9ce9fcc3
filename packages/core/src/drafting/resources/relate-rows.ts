import type { ContractResource } from './find-resources.js';
import type { MadeRow } from './make-rows.js';

export interface ResourceRows {
  readonly resource: ContractResource;
  readonly rows: readonly MadeRow[];
}

/** Fields that name another resource get keys of its rows: a booking's `berthId` is that of a berth that is there. */
export function relateRows(all: readonly ResourceRows[]): ResourceRows[] {
  return all.map(({ resource, rows }) => ({
    resource,
    rows: rows.map((row, turn) => ({ ...row, ...keysOfOthers(resource, row, turn, all) })),
  }));
}

function keysOfOthers(
  { key, name }: ContractResource,
  row: MadeRow,
  turn: number,
  all: readonly ResourceRows[],
): MadeRow {
  const found: Record<string, unknown> = {};
  for (const field of Object.keys(row)) {
    const other = all.find(({ resource }) => resource.name !== name && isNamedBy(field, resource));
    const value = other?.rows[turn % Math.max(1, other.rows.length)]?.[other.resource.key];
    if (field !== key && value !== undefined && typeof value === typeof row[field]) found[field] = value;
  }
  return found;
}

/** `berthId` and `berth_id` name a berth, and what its path calls it. */
function isNamedBy(field: string, { noun, param }: ContractResource): boolean {
  const plain = field.toLowerCase();
  return field === param || plain === `${noun.toLowerCase()}id` || plain === `${noun.toLowerCase()}_id`;
}
