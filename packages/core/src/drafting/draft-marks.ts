import { sha256 } from '@noble/hashes/sha2.js';
import { isJsonMap } from '../definition/json-map.js';

const MARK_BYTES = 5;

/** A short digest of a part of a service file: the same for the same content. */
export function markOf(part: unknown): string {
  const bytes = sha256(new TextEncoder().encode(JSON.stringify(part))).slice(0, MARK_BYTES);
  return [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('');
}

/** The parts of a drafted definition that are merged one by one, with their marks: cases by `operation / case`, datasets by `data NAME`. */
export function markParts(definition: Readonly<Record<string, unknown>>): Record<string, string> {
  const marks: Record<string, string> = {};
  const { datasets, operations } = definition;
  if (isJsonMap(datasets))
    for (const [name, dataset] of Object.entries(datasets)) marks[`data ${name}`] = markOf(dataset);
  if (!isJsonMap(operations)) return marks;
  for (const [name, operation] of Object.entries(operations)) {
    const cases = isJsonMap(operation) && Array.isArray(operation['cases']) ? operation['cases'] : [];
    for (const item of cases) if (isJsonMap(item)) marks[`${name} / ${String(item['case'])}`] = markOf(item);
  }
  return marks;
}
