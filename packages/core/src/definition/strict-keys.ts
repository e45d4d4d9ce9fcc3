import { z } from 'zod';
import { findNearest } from './nearest.js';

/**
 * A strict object whose complaint about unknown keys is one line for each key, in the order of `issue.keys`:
 * "not supported yet" for keys of the format that are still to come, else the nearest key there is. Its JSON Schema
 * carries `keysOf`, which says whose keys these are.
 */
export function strictKeys<Shape extends z.core.$ZodShape>(what: string, shape: Shape, notYet: readonly string[] = []) {
  const known = Object.keys(shape);
  const map = z.strictObject(shape, {
    error: (issue) => {
      if (issue.code === 'unrecognized_keys') {
        return issue.keys.map((key) => explainUnknownKey(what, key, known, notYet)).join('\n');
      }
      if (issue.code === 'invalid_type') return `${what} is a map with the keys ${known.join(', ')}`;
      return undefined;
    },
  });
  return map.meta({ keysOf: what });
}

/** For refinements: an unknown key was reported already, so what it was meant to be is not missing as well. */
export function hasNoMistakes({ issues }: { readonly issues: readonly unknown[] }): boolean {
  return issues.length === 0;
}

function explainUnknownKey(what: string, key: string, known: readonly string[], notYet: readonly string[]): string {
  if (notYet.includes(key)) return `\`${key}\` is not supported yet`;
  const nearest = findNearest(key, [...known, ...notYet]);
  if (nearest !== null) return `${what} has no key \`${key}\`; did you mean \`${nearest}\`?`;
  return `${what} has no key \`${key}\`; it has ${known.join(', ')}`;
}
