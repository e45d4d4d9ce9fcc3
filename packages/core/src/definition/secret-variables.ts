import { isJsonMap, type JsonMap } from './json-map.js';

const NAMES = /\bvars\.(\w+)/g;

/** The variables of a definition (still any value) that let callers in, get them tokens or sign callbacks: their values are not shown. */
export function findSecretVariables(definition: unknown): ReadonlySet<string> {
  if (!isJsonMap(definition)) return new Set();
  const operations = Object.values(isJsonMap(definition['operations']) ? definition['operations'] : {});
  const secrets = [definition, ...operations].flatMap((guarded) => (isJsonMap(guarded) ? waysIn(guarded) : []));
  const tokens = isJsonMap(definition['tokens']) ? definition['tokens']['clients'] : null;
  const texts = JSON.stringify([secrets, signingKeys(operations), tokens]);
  return new Set([...texts.matchAll(NAMES)].map(([, name = '']) => name));
}

/** What `access` says, without its answer to who may not. */
function waysIn({ access }: JsonMap): unknown[] {
  if (!isJsonMap(access)) return [];
  return Object.entries(access).flatMap(([key, way]) => (key === 'refuse' ? [] : [way]));
}

function signingKeys(value: unknown): unknown[] {
  if (Array.isArray(value)) return value.flatMap(signingKeys);
  if (!isJsonMap(value)) return [];
  return Object.entries(value).flatMap(([key, own]) =>
    key === 'sign' && isJsonMap(own) ? [own['key']] : signingKeys(own),
  );
}
