import { JSONPatch, JSONPointer } from 'json-p3';
import { isJsonMap } from '../definition/json-map.js';
import { writeExact } from '../json/exact-json.js';

/** What patching gave, or why it cannot be done. */
export type Patched =
  | { readonly kind: 'patched'; readonly value: unknown }
  | { readonly kind: 'refused'; readonly reason: string };

/** JSON Merge Patch: maps are merged, null takes a member away, anything else is put in the place of what was there. Source: RFC 7396, 2. */
export function mergePatch(target: unknown, patch: unknown): unknown {
  if (!isJsonMap(patch)) return patch;
  const members = new Map<string, unknown>(isJsonMap(target) ? Object.entries(target) : []);
  for (const [name, value] of Object.entries(patch)) {
    if (value === null) members.delete(name);
    else members.set(name, mergePatch(members.get(name), value));
  }
  return Object.fromEntries(members);
}

/** What all copies of one patch may come to, in characters of JSON: each of them can double the row. */
const MOST_COPIED = 2_000_000;

/** JSON Patch (RFC 6902): all of it, or nothing. */
export function applyJsonPatch(target: unknown, patch: unknown): Patched {
  if (!Array.isArray(patch)) return refused('a JSON Patch is a list of operations');
  const odd = patch.find((operation) => namesPrototype(operation?.path) || namesPrototype(operation?.from));
  if (odd !== undefined) return refused(`no member may be called __proto__ (${odd.path})`);
  let value = structuredClone(target) as never;
  let copied = 0;
  for (const [i, operation] of patch.entries()) {
    try {
      value = new JSONPatch([withOwnCopy(operation, value)]).apply(value) as never;
    } catch (error) {
      return refused(`operation ${i + 1}: ${(error as Error).message.replace(/ ?\((\w+):0\)$/, '')}`);
    }
    if (operation.op === 'copy') copied += writeExact(value).length;
    if (copied > MOST_COPIED) return refused('the copies of this patch come to more than 2 MB');
  }
  return { kind: 'patched', value };
}

/** A copy is a value of its own, not the same one at two places. */
function withOwnCopy(operation: { op: string; path: string; from?: string }, value: never): never {
  if (operation.op !== 'copy' || typeof operation.from !== 'string') return operation as never;
  const copied = structuredClone(new JSONPointer(operation.from).resolve(value));
  return { op: 'add', path: operation.path, value: copied } as never;
}

function namesPrototype(pointer: unknown): boolean {
  return typeof pointer === 'string' && pointer.split('/').includes('__proto__');
}

function refused(reason: string): Patched {
  return { kind: 'refused', reason };
}
