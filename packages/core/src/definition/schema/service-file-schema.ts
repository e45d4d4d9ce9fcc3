import { z } from 'zod';
import { fileSchema } from '../answer-forms.js';
import { comparisonSchema, comparisonTestsSchema } from '../comparison.js';
import { isJsonMap } from '../json-map.js';
import { serviceFileSchema } from '../service-file.js';
import { whenSchema } from '../when.js';
import { KEY_HELP } from './key-help.js';
import { describePlaces } from './place-help.js';

export type JsonSchema = Readonly<Record<string, unknown>>;

const COMPARISON = { $ref: '#/$defs/comparison' };
const WHEN = { $ref: '#/$defs/when' };
/** The name of a file beside. */
const BESIDE = { type: 'string', pattern: '^\\./' };

/** What stands in the file where the loaded definition has something else: bare values, and files beside by their names. */
const AS_WRITTEN: readonly (readonly [schema: unknown, written: JsonSchema])[] = [
  [comparisonSchema, COMPARISON],
  [whenSchema, WHEN],
  [fileSchema, BESIDE],
];

/** Maps and lists whose content may stand in a file beside; the other bodies are texts, or anything. */
const MAY_BE_BESIDE: ReadonlySet<string> = new Set(['a dataset rows', 'an answer problem', 'a turn problem']);

/**
 * The service file as a JSON Schema (2020-12), for editors: keys, their types, a sentence for each.
 * What a schema cannot say (expressions, what goes with what) is told when the file is loaded.
 */
export function describeServiceFile(): JsonSchema {
  const { $defs, ...file } = convert(serviceFileSchema);
  const { $schema: _, ...tests } = convert(comparisonTestsSchema, 'inline');
  const groups = { type: 'array', minItems: 1, items: WHEN };
  const defs = {
    ...(isJsonMap($defs) ? $defs : {}),
    comparison: { anyOf: [{ type: ['string', 'number', 'boolean', 'null', 'array'] }, tests] },
    when: { type: 'object', ...describePlaces(COMPARISON, groups) },
  };
  return tellKeys({ ...file, title: 'Upsetter service file', $defs: defs }) as JsonSchema;
}

function convert(schema: z.ZodType, reused: 'ref' | 'inline' = 'ref'): Record<string, unknown> {
  return z.toJSONSchema(schema, {
    io: 'input',
    unrepresentable: 'any',
    reused,
    override: ({ zodSchema, jsonSchema }) => {
      const written = AS_WRITTEN.find(([ours]) => ours === zodSchema)?.[1];
      if (written === undefined) return;
      for (const key of Object.keys(jsonSchema)) delete jsonSchema[key as keyof typeof jsonSchema];
      Object.assign(jsonSchema, written);
    },
  }) as Record<string, unknown>;
}

/** Each map of known keys (`keysOf`) with a sentence for each of them. */
function tellKeys(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(tellKeys);
  if (!isJsonMap(value)) return value;
  const { keysOf, ...own } = value;
  const told = Object.fromEntries(Object.entries(own).map(([key, inner]) => [key, tellKeys(inner)]));
  if (typeof keysOf !== 'string' || !isJsonMap(told['properties'])) return told;
  const properties = Object.entries(told['properties']).map(([key, schema]) => [key, tellKey(keysOf, key, schema)]);
  return { ...told, properties: Object.fromEntries(properties) };
}

function tellKey(owner: string, key: string, schema: unknown): JsonSchema {
  const description = KEY_HELP[owner]?.[key];
  const written = MAY_BE_BESIDE.has(`${owner} ${key}`) ? { anyOf: [schema, BESIDE] } : (schema as object);
  return { ...written, ...(description === undefined ? {} : { description }) };
}
