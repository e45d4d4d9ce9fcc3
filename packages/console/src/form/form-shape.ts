import { alternatives, type JsonSchema, type Offer, offerKeys } from '../editor/schema/schema-at.js';

/** How a value is edited. */
export type FormShape =
  | { readonly kind: 'map'; readonly isOpen: boolean }
  | { readonly kind: 'list' }
  | { readonly kind: 'choice'; readonly options: readonly string[] }
  | { readonly kind: 'flag' }
  | { readonly kind: 'line' }
  | { readonly kind: 'yaml' };

/** What the schemas of a place make of the value that stands there: a map and a list by what they are, the rest by what they may be. */
export function shapeOf(schemas: readonly JsonSchema[], value: unknown): FormShape {
  const own = schemas.filter((schema) => takes(schema, value));
  if (isMap(value)) {
    const isKnown = own.some(({ properties }) => properties !== undefined);
    const isNamed = own.some(
      ({ additionalProperties, patternProperties }) => isSchema(additionalProperties) || isSchema(patternProperties),
    );
    return isKnown || isNamed ? { kind: 'map', isOpen: isNamed } : { kind: 'yaml' };
  }
  if (Array.isArray(value)) return own.some(({ items }) => isSchema(items)) ? { kind: 'list' } : { kind: 'yaml' };
  const options = own.flatMap((schema) =>
    Array.isArray(schema['enum'])
      ? schema['enum'].map(String)
      : schema['const'] === undefined
        ? []
        : [String(schema['const'])],
  );
  const isFree = own.some(
    ({ type, enum: list, const: only }) => type === 'string' && list === undefined && only === undefined,
  );
  if (options.length > 0 && !isFree) return { kind: 'choice', options: [...new Set(options)] };
  if (typeof value === 'boolean') return { kind: 'flag' };
  return value === null || value === undefined || String(value).includes('\n') ? { kind: 'yaml' } : { kind: 'line' };
}

/** A value to begin with, where one of these schemas is to be followed. */
export function startingValue(root: JsonSchema, schemas: readonly JsonSchema[]): unknown {
  const [first] = schemas;
  const map = schemas.find(({ type, properties }) => type === 'object' || properties !== undefined);
  if (first?.['type'] === 'boolean') return true;
  if (Array.isArray(first?.['enum'])) return first['enum'][0];
  if (first?.['const'] !== undefined) return first['const'];
  // A comparison begins as the value that is wanted.
  if ([first?.['type']].flat().includes('string')) return '';
  if (first?.['type'] === 'integer' || first?.['type'] === 'number') return 0;
  if (map !== undefined) return requiredOf(root, map);
  return schemas.some(({ type }) => type === 'array') ? [] : '';
}

function requiredOf(root: JsonSchema, { required, properties }: JsonSchema): Record<string, unknown> {
  const keys = Array.isArray(required) ? (required as string[]) : [];
  return Object.fromEntries(
    keys.map((key) => [key, startingValue(root, alternatives(root, (properties as Record<string, unknown>)[key]))]),
  );
}

/** Keys that a map may still get. */
export function missingKeys(root: JsonSchema, path: readonly (string | null)[], value: object): readonly Offer[] {
  return offerKeys(root, path).filter(({ text }) => !Object.hasOwn(value, text));
}

function takes({ type, properties, items }: JsonSchema, value: unknown): boolean {
  if (isMap(value)) return type === 'object' || properties !== undefined;
  if (Array.isArray(value)) return type === 'array' || items !== undefined;
  return type !== 'object' && type !== 'array';
}

function isSchema(value: unknown): boolean {
  return value !== null && typeof value === 'object';
}

export function isMap(value: unknown): value is Readonly<Record<string, unknown>> {
  return value !== null && typeof value === 'object' && !Array.isArray(value);
}
