import type { YamlPath } from './place-in-yaml.js';

export interface JsonSchema {
  readonly [key: string]: unknown;
}

/** A key or a value that may stand at a place, with what it means. */
export interface Offer {
  readonly text: string;
  readonly help: string;
  /** Whether a map or a list follows it. */
  readonly isNested: boolean;
  /** Whether a name is to follow it within the key, as in `query NAME`. */
  readonly isPrefix: boolean;
}

/** The schemas that a place may follow: those of its alternatives. */
export function schemasAt(root: JsonSchema, path: YamlPath): readonly JsonSchema[] {
  return path.reduce<readonly JsonSchema[]>(
    (schemas, step) => schemas.flatMap((schema) => alternatives(root, stepInto(schema, step))),
    alternatives(root, root),
  );
}

/** `^query `: keys that begin so. */
const PREFIX = /^\^([\w-]+ )$/;

export function offerKeys(root: JsonSchema, path: YamlPath): readonly Offer[] {
  const offers = new Map<string, Offer>();
  for (const schema of schemasAt(root, path))
    for (const [key, own] of Object.entries(mapOf(schema['properties']))) {
      const schemas = alternatives(root, own);
      const isNested = schemas.length > 0 && schemas.every(({ type }) => type === 'object' || type === 'array');
      if (!offers.has(key)) offers.set(key, { text: key, help: helpOf(own), isNested, isPrefix: false });
    }
  for (const schema of schemasAt(root, path))
    for (const [pattern, own] of Object.entries(mapOf(schema['patternProperties']))) {
      const [, prefix] = PREFIX.exec(pattern) ?? [];
      if (prefix !== undefined)
        offers.set(prefix, { text: prefix, help: helpOf(own), isNested: false, isPrefix: true });
    }
  return [...offers.values()];
}

export function offerValues(root: JsonSchema, path: YamlPath, key: string): readonly Offer[] {
  const texts = schemasAt(root, key === '' ? path : [...path, key]).flatMap((schema) => {
    if (Array.isArray(schema['enum'])) return schema['enum'].map(String);
    if (schema['const'] !== undefined) return [String(schema['const'])];
    return schema['type'] === 'boolean' ? ['true', 'false'] : [];
  });
  return [...new Set(texts)].map((text) => ({ text, help: '', isNested: false, isPrefix: false }));
}

/** The sentence for a key; empty: there is none. */
export function helpFor(root: JsonSchema, path: YamlPath, key: string): string {
  for (const schema of schemasAt(root, path)) {
    const own = mapOf(schema['properties'])[key] ?? byPattern(schema, key);
    if (own !== undefined) return helpOf(own);
  }
  return '';
}

function stepInto(schema: JsonSchema, step: string | null): unknown {
  if (step === null) return schema['items'];
  return mapOf(schema['properties'])[step] ?? byPattern(schema, step) ?? schema['additionalProperties'];
}

function byPattern(schema: JsonSchema, key: string): unknown {
  return Object.entries(mapOf(schema['patternProperties'])).find(([pattern]) => new RegExp(pattern).test(key))?.[1];
}

/** References followed, `anyOf` and the like taken apart. */
export function alternatives(root: JsonSchema, schema: unknown, depth = 0): readonly JsonSchema[] {
  if (schema === null || typeof schema !== 'object' || depth > 20) return [];
  const own = schema as JsonSchema;
  if (typeof own['$ref'] === 'string') {
    const target = own['$ref'] === '#' ? root : mapOf(root['$defs'])[own['$ref'].replace('#/$defs/', '')];
    return alternatives(root, target, depth + 1);
  }
  const choices = [own['anyOf'], own['oneOf'], own['allOf']].flatMap((list) => (Array.isArray(list) ? list : []));
  const inner = choices.flatMap((choice) => alternatives(root, choice, depth + 1));
  return own['properties'] !== undefined || inner.length === 0 ? [own, ...inner] : inner;
}

function helpOf(schema: unknown): string {
  const help = (schema as JsonSchema | null)?.['description'];
  return typeof help === 'string' ? help : '';
}

function mapOf(value: unknown): Readonly<Record<string, unknown>> {
  return value !== null && typeof value === 'object' ? (value as Record<string, unknown>) : {};
}
