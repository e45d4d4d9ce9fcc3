import { isJsonMap, type JsonMap } from '../../definition/json-map.js';
import { type Contract, type ContractNode, childOf, refOf } from '../contract.js';
import type { Direction } from '../generate-value.js';

/** A schema of a contract as one JSON Schema 2020-12, with what it refers to; and where each part of it stands in the contract. */
export interface BundledSchema {
  readonly schema: JsonMap;
  /** The node that each map of the bundled schema was made of. */
  readonly places: ReadonlyMap<object, ContractNode>;
}

/** Values of these are data, not schemas. */
const DATA = new Set(['enum', 'const', 'default', 'example', 'examples', 'required', 'description', 'title']);
/** Keywords that only documents know, or that would change what references mean. */
const LEFT_OUT = new Set([
  '$id',
  '$schema',
  '$anchor',
  'discriminator',
  'xml',
  'externalDocs',
  'nullable',
  'x-nullable',
  'example',
]);

/** Only what is reached from the schema is bundled, each part once: circles stay references. */
export function bundleSchema(contract: Contract, node: ContractNode, direction: Direction): BundledSchema {
  const places = new Map<object, ContractNode>();
  const names = new Map<string, string>();
  const waiting: [string, ContractNode][] = [];
  const nameOf = (target: ContractNode): string => {
    const id = `${target.document.address}#${target.path.join('/')}`;
    const known = names.get(id);
    if (known !== undefined) return known;
    const name = `part${names.size}`;
    names.set(id, name);
    waiting.push([name, target]);
    return name;
  };
  const root = nameOf(node);
  const definitions: Record<string, unknown> = {};
  for (let next = waiting.shift(); next !== undefined; next = waiting.shift()) {
    const [name, target] = next;
    definitions[name] = convert(target, { contract, direction, nameOf, places });
  }
  return { schema: { $ref: `#/$defs/${root}`, $defs: definitions }, places };
}

interface Bundling {
  readonly contract: Contract;
  readonly direction: Direction;
  readonly nameOf: (node: ContractNode) => string;
  readonly places: Map<object, ContractNode>;
}

function convert(node: ContractNode, bundling: Bundling): unknown {
  const { value } = node;
  const { contract } = bundling;
  if (Array.isArray(value)) return contract.children(node).map(([, child]) => convert(child, bundling));
  if (!isJsonMap(value)) return value;
  const converted = convertMap(node, value, bundling);
  if (typeof converted === 'object') bundling.places.set(converted, node);
  return converted;
}

function convertMap(node: ContractNode, value: JsonMap, bundling: Bundling): JsonMap | true {
  const { contract, direction, nameOf } = bundling;
  const ref = refOf(value);
  const target = ref === null ? null : contract.resolve(node);
  // What leads nowhere says nothing of values.
  if (ref !== null && target === null) return true;
  if (target !== null && contract.dialect !== '3.1') return { $ref: `#/$defs/${nameOf(target)}` };
  const converted: Record<string, unknown> = target === null ? {} : { $ref: `#/$defs/${nameOf(target)}` };
  for (const [key, child] of contract.children(node)) {
    if (key === '$ref' || LEFT_OUT.has(key) || key.startsWith('x-')) continue;
    if (key === 'items' && Array.isArray(child.value)) converted['prefixItems'] = convert(child, bundling);
    // Which branch is meant, a discriminator says: that others would hold as well is no fault.
    else if (key === 'oneOf' && isJsonMap(value['discriminator'])) converted['anyOf'] = convert(child, bundling);
    else converted[key] = DATA.has(key) ? child.value : convertKeyword(key, child, bundling);
  }
  const own = withoutOthers(contract, node, converted, direction);
  return contract.dialect === '3.1' ? own : modernize(own, value);
}

/** Maps of schemas are no schemas themselves: a member may be called `example`. */
function convertKeyword(key: string, child: ContractNode, bundling: Bundling): unknown {
  const isMap = ['properties', 'patternProperties', '$defs', 'definitions', 'dependentSchemas'].includes(key);
  if (!isMap || !isJsonMap(child.value)) return convert(child, bundling);
  return Object.fromEntries(
    bundling.contract.children(child).map(([name, schema]) => [name, convert(schema, bundling)]),
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
