import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import { type Contract, type ContractNode, childOf, withValue } from './contract.js';
import type {
  ContractBody,
  ContractHeader,
  ContractMedia,
  ContractParameter,
  ContractResponse,
  NamedExample,
} from './contract-operation.js';

const PLACES = ['path', 'query', 'header', 'cookie'] as const;
/**
 * Headers that say what others of a contract say (parameters of these names mean nothing: OpenAPI 3.1, 4.8.12), and those
 * that the sender of a call makes by itself.
 */
const SAID_ELSEWHERE = [
  ...['accept', 'content-type', 'authorization'],
  ...['content-length', 'transfer-encoding', 'connection', 'host'],
];
const JSON_TYPE = 'application/json';
const FORM_TYPE = 'application/x-www-form-urlencoded';

/** Null: no parameter of a place that calls have (a body of Swagger 2.0, a name that means nothing). */
export function readParameter(contract: Contract, node: ContractNode): ContractParameter | null {
  const { name, in: given, required } = node.value as JsonMap;
  const place = PLACES.find((known) => known === given);
  if (place === undefined || typeof name !== 'string') return null;
  if (place === 'header' && SAID_ELSEWHERE.includes(name.toLowerCase())) return null;
  const [media] = readContent(contract, contract.at(node, 'content'));
  return {
    name,
    place,
    isRequired: required === true || place === 'path',
    schema: media?.schema ?? schemaOf(contract, node),
    examples: media === undefined ? readExamples(contract, node) : media.examples,
    node,
  };
}

/** Swagger 2.0 writes the schema of parameters and headers into them. */
function schemaOf(contract: Contract, node: ContractNode): ContractNode | null {
  const schema = childOf(node, 'schema');
  return schema === null && contract.dialect === '2.0' ? node : schema;
}

export function readBody(
  contract: Contract,
  operation: ContractNode,
  parameters: readonly ContractNode[],
): ContractBody | null {
  if (contract.dialect === '2.0') return readOldBody(contract, operation, parameters);
  const node = contract.at(operation, 'requestBody');
  if (node === null || !isJsonMap(node.value)) return null;
  return {
    isRequired: node.value['required'] === true,
    media: readContent(contract, contract.at(node, 'content')),
    node,
  };
}

/** Swagger 2.0: a parameter in `body`, or those in `formData` put together. */
function readOldBody(
  contract: Contract,
  operation: ContractNode,
  parameters: readonly ContractNode[],
): ContractBody | null {
  const placed = (place: string) => parameters.filter(({ value }) => (value as JsonMap)['in'] === place);
  const [body] = placed('body');
  if (body !== undefined) {
    const schema = childOf(body, 'schema');
    const types = typesOf(contract, operation, 'consumes', JSON_TYPE);
    return {
      isRequired: (body.value as JsonMap)['required'] === true,
      media: types.map((type) => ({ type, schema, examples: [] })),
      node: body,
    };
  }
  const fields = placed('formData');
  const [first] = fields;
  if (first === undefined) return null;
  const named = fields.map(({ value }) => [String((value as JsonMap)['name']), value as JsonMap] as const);
  const required = named.flatMap(([name, value]) => (value['required'] === true ? [name] : []));
  const schema = withValue(first, { type: 'object', required, properties: Object.fromEntries(named) });
  const types = typesOf(contract, operation, 'consumes', FORM_TYPE);
  return {
    isRequired: required.length > 0,
    media: types.map((type) => ({ type, schema, examples: [] })),
    node: first,
  };
}

function typesOf(contract: Contract, operation: ContractNode, key: string, other: string): string[] {
  const own = childOf(operation, key) ?? childOf(contract.root(), key);
  const types = contract.children(own).map(([, type]) => String(type.value));
  return types.length === 0 ? [other] : types;
}

export function readResponse(
  contract: Contract,
  code: string,
  node: ContractNode,
  operation: ContractNode,
): ContractResponse {
  const headers = contract.children(contract.at(node, 'headers')).flatMap(([name, raw]): ContractHeader[] => {
    const header = contract.resolve(raw);
    if (header === null || !isJsonMap(header.value) || name.toLowerCase() === 'content-type') return [];
    return [
      {
        name,
        isRequired: header.value['required'] === true,
        schema: schemaOf(contract, header),
        examples: readExamples(contract, header),
      },
    ];
  });
  const media =
    contract.dialect === '2.0'
      ? readOldMedia(contract, node, operation)
      : readContent(contract, contract.at(node, 'content'));
  return { code, media, headers, node };
}

function readOldMedia(contract: Contract, node: ContractNode, operation: ContractNode): ContractMedia[] {
  const schema = childOf(node, 'schema');
  const examples = new Map(contract.children(contract.at(node, 'examples')).map(([type, { value }]) => [type, value]));
  if (schema === null && examples.size === 0) return [];
  const produced = typesOf(contract, operation, 'produces', JSON_TYPE);
  return [...new Set([...examples.keys(), ...produced])].map((type) => ({
    type,
    schema,
    examples: examples.has(type) ? [{ name: null, value: examples.get(type) }] : [],
  }));
}

function readContent(contract: Contract, content: ContractNode | null): ContractMedia[] {
  return contract.children(content).flatMap(([type, raw]) => {
    const media = contract.resolve(raw);
    if (media === null || !isJsonMap(media.value)) return [];
    return [{ type, schema: childOf(media, 'schema'), examples: readExamples(contract, media) }];
  });
}

/** The examples of a parameter, header or body: the named ones, else the one without a name. */
function readExamples(contract: Contract, node: ContractNode): NamedExample[] {
  const named = contract.children(contract.at(node, 'examples')).flatMap(([name, raw]) => {
    const example = contract.resolve(raw);
    const value = example === null ? undefined : readValue(contract, example);
    return value === undefined ? [] : [{ name, value }];
  });
  if (named.length > 0) return named;
  const example = contract.dialect === '2.0' ? undefined : childOf(node, 'example')?.value;
  return example === undefined ? [] : [{ name: null, value: example }];
}

/** Where it stands in a file of its own, that file's text. */
function readValue(contract: Contract, example: ContractNode): unknown {
  if (!isJsonMap(example.value)) return undefined;
  const { value, externalValue } = example.value as { readonly value?: unknown; readonly externalValue?: unknown };
  if (value !== undefined || typeof externalValue !== 'string') return value;
  return contract.textOf(externalValue, example) ?? undefined;
}
