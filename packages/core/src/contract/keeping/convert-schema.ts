import { isJsonMap, type JsonMap } from '../../definition/json-map.js';
import { type Contract, type ContractNode, childOf, refOf } from '../contract.js';
import type { Direction } from '../direction.js';
import { isSchemaPattern } from './schema-pattern.js';

/** Values of these are data, not schemas. */
const DATA = new Set(['enum', 'const', 'default', 'example', 'examples', 'required', 'description', 'title']);
/** Keywords that only documents know, or that would change what references mean. */
const LEFT_OUT = new Set([
  '$id',
  '$schema',
  '$anchor',
  '$dynamicAnchor',
  'discriminator',
  'xml',
  'externalDocs',
  'nullable',
  'x-nullable',
  'example',
]);

/** Stands for `$ref`: another schema, by its id. It is compiled when a value first gets there. */
export const REFERS_TO = 'refersTo';

/** What converting a schema needs to know and to tell. */
export interface Converting {
  readonly contract: Contract;
  readonly direction: Direction;
  /** The id of a schema that is referred to. */
  readonly idOf: (node: ContractNode) => string;
  /** Gets the node that each map of the converted schema was made of. */
  readonly places: WeakMap<object, ContractNode>;
  /** Told of keywords that are none. */
  readonly report: (node: ContractNode, reason: string) => void;
}

/** A schema of a contract as JSON Schema 2020-12. What it refers to stays a reference, by ids: circles do no harm. */
export function convertSchema(node: ContractNode, converting: Converting): JsonMap {
  const schema = asMap(convert(node, converting));
  converting.places.set(schema, node);
  return schema;
}

/** A schema may be `true` or `false`; what is no schema at all says nothing. */
function asMap(converted: unknown): JsonMap {
  if (converted === false) return { not: {} };
  return isJsonMap(converted) ? converted : {};
}

function convert(node: ContractNode, converting: Converting): unknown {
  const { value } = node;
  const { contract } = converting;
  if (Array.isArray(value)) return contract.children(node).map(([, child]) => convert(child, converting));
  if (!isJsonMap(value)) return value;
  const converted = convertMap(node, value, converting);
  if (typeof converted === 'object') converting.places.set(converted, node);
  return converted;
}

function convertMap(node: ContractNode, value: JsonMap, converting: Converting): JsonMap | true {
  const { contract, direction, idOf, report } = converting;
  const ref = refOf(value);
  const target = ref === null ? null : contract.resolve(node);
  // What leads nowhere says nothing of values.
  if (ref !== null && target === null) return true;
  if (target !== null && contract.dialect !== '3.1') return { [REFERS_TO]: idOf(target) };
  const converted: Record<string, unknown> = target === null ? {} : { [REFERS_TO]: idOf(target) };
  for (const [key, child] of contract.children(node)) {
    if (key === '$ref' || LEFT_OUT.has(key) || key.startsWith('x-')) continue;
    if (key === 'items' && Array.isArray(child.value)) converted['prefixItems'] = convert(child, converting);
    else if (key === '$dynamicRef') report(child, 'it is not followed');
    // Which branch is meant, a discriminator says: that others would hold as well is no fault.
    else if (key === 'oneOf' && isJsonMap(value['discriminator'])) converted['anyOf'] = convert(child, converting);
    else if (key === 'pattern' && !isSchemaPattern(child.value)) report(child, 'it is no regular expression');
    else converted[key] = DATA.has(key) ? child.value : convertKeyword(key, child, converting);
  }
  const own = withoutOthers(contract, node, converted, direction);
  return contract.dialect === '3.1' ? own : modernize(own, value);
}

/** Maps of schemas are no schemas themselves: a member may be called `example`. */
function convertKeyword(key: string, child: ContractNode, converting: Converting): unknown {
  const isMap = ['properties', 'patternProperties', '$defs', 'definitions', 'dependentSchemas'].includes(key);
  if (!isMap || !isJsonMap(child.value)) return convert(child, converting);
  return Object.fromEntries(
    converting.contract.children(child).map(([name, schema]) => [name, convert(schema, converting)]),
  );
}

/** Members that only the other side sends are not required. */
function withoutOthers(
  contract: Contract,
  node: ContractNode,
  converted: Record<string, unknown>,
  direction: Direction,
): Record<string, unknown> {
  if (!Array.isArray(converted['required'])) {
    delete converted['required'];
    return converted;
  }
  const others = direction === 'response' ? 'writeOnly' : 'readOnly';
  const properties = childOf(node, 'properties');
  const required = (converted['required'] as unknown[]).filter((name) => {
    const member = properties === null ? null : contract.resolve(childOf(properties, String(name)));
    return !(isJsonMap(member?.value) && member.value[others] === true);
  });
  return { ...converted, required };
}

/** Keywords of OpenAPI 3.0 and Swagger 2.0 as JSON Schema has them today. */
function modernize(schema: Record<string, unknown>, value: JsonMap): Record<string, unknown> {
  const modern = { ...schema };
  if (modern['type'] === 'file') delete modern['type'];
  const isNullable = value['nullable'] === true || value['x-nullable'] === true;
  if (isNullable && typeof modern['type'] === 'string') modern['type'] = [modern['type'], 'null'];
  if (isNullable && Array.isArray(modern['enum']))
    modern['enum'] = [...new Set([...(modern['enum'] as unknown[]), null])];
  for (const [flag, limit] of [
    ['exclusiveMinimum', 'minimum'],
    ['exclusiveMaximum', 'maximum'],
  ] as const) {
    if (typeof modern[flag] !== 'boolean') continue;
    if (modern[flag] === true) {
      modern[flag] = modern[limit];
      delete modern[limit];
    } else delete modern[flag];
  }
  return modern;
}
