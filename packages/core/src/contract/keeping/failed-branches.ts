import type { ErrorObject } from 'ajv/dist/2020.js';
import { isJsonMap } from '../../definition/json-map.js';
import { REFERS_TO } from './convert-schema.js';

/** Schemas that hold of the same value as the one they stand in. */
const IN_PLACE = new Set(['allOf', 'anyOf', 'oneOf', 'if', 'then', 'else', 'not', REFERS_TO]);

type FindSchema = (id: string) => unknown;

/** Where no branch of a choice holds, that is said once, and not what is wrong with each of them. */
export function withoutBranches(errors: readonly ErrorObject[], find: FindSchema): readonly ErrorObject[] {
  const choices = errors
    .filter(({ keyword }) => keyword === 'oneOf' || keyword === 'anyOf')
    .map((choice) => ({
      choice,
      here: schemasBelow(choice.schema, find, (key) => IN_PLACE.has(key)),
      deeper: schemasBelow(choice.schema, find, () => true),
    }));
  if (choices.length === 0) return errors;
  return errors.filter(
    (error) =>
      !choices.some(({ choice, here, deeper }) => {
        if (choice === error || error.parentSchema === undefined) return false;
        if (error.instancePath === choice.instancePath) return here.has(error.parentSchema);
        return error.instancePath.startsWith(`${choice.instancePath}/`) && deeper.has(error.parentSchema);
      }),
  );
}

/** All maps that lead on from a schema by keys that count, references followed. */
function schemasBelow(schema: unknown, find: FindSchema, counts: (key: string) => boolean): ReadonlySet<object> {
  const found = new Set<object>();
  const waiting: unknown[] = [schema];
  while (waiting.length > 0) {
    const next = waiting.pop();
    if (Array.isArray(next)) waiting.push(...(next as unknown[]));
    if (!isJsonMap(next) || found.has(next)) continue;
    found.add(next);
    for (const [key, value] of Object.entries(next))
      if (counts(key)) waiting.push(key === REFERS_TO && typeof value === 'string' ? find(value) : value);
  }
  return found;
}
