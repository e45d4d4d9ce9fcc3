import type { Contract, ContractNode } from '../contract/contract.js';
import type {
  ContractMedia,
  ContractOperation,
  ContractResponse,
  NamedExample,
} from '../contract/contract-operation.js';
import { findMisfit } from '../contract/find-misfit.js';
import { flattenFirst, placeOfSchema } from '../contract/flat-schema.js';
import { generateValue } from '../contract/generate-value.js';
import { samplePathText } from '../contract/keeping/sample-parts.js';
import { writeXml } from '../contract/write-xml.js';
import { isJsonMap } from '../definition/json-map.js';
import { escapeTemplates } from '../expression/template.js';
import { type DraftedBody, JSON_TYPE, XML_TYPE } from './contract-answer.js';
import { memberExpression } from './leaves.js';
import { sayRefusal } from './refusal-body.js';
import { standInFor } from './stand-in.js';

type Report = (node: ContractNode, reason: string) => void;

/** The bodies of a response, in one media type: each of its examples, else one that is made up; empty: it has none. */
export function draftBodies(
  contract: Contract,
  operation: ContractOperation,
  response: ContractResponse,
  status: number,
  report: Report,
): DraftedBody[] {
  const media = chooseMedia(response.media);
  if (media === null) return [];
  const examples = media.examples.flatMap((example) => readExample(contract, example, media));
  if (examples.length > 0) return examples;
  const { schema, type } = media;
  if (!JSON_TYPE.test(type) && !XML_TYPE.test(type) && !/^text\//i.test(type)) {
    const { type: own, base64 } = standInFor(type);
    return [{ type: own, value: base64, from: 'stand-in', example: null, doubt: null }];
  }
  if (schema === null) return [];
  if (contract.resolve(schema) === null) {
    report(schema, contract.explainLost(schema));
    return [];
  }
  const made = sayRefusal(generateOnce(contract, operation, schema), schema, contract, { status, node: response.node });
  const agreed = agreeWithPath(contract, operation, schema, escapeTemplates(made));
  const value = XML_TYPE.test(type) ? writeXml(contract, schema, agreed) : agreed;
  return [{ type, value, from: 'schema', example: null, doubt: null }];
}

function chooseMedia(media: readonly ContractMedia[]): ContractMedia | null {
  return (
    media.find(({ type }) => JSON_TYPE.test(type)) ??
    media.find(({ examples }) => examples.length > 0) ??
    media[0] ??
    null
  );
}

/** An example is answered as it stands; only a null where there is to be something is none. */
function readExample(contract: Contract, example: NamedExample, media: ContractMedia): DraftedBody[] {
  const { type, schema } = media;
  const value = JSON_TYPE.test(type) ? readJson(contract, example.value, media) : example.value;
  const isHeld = JSON_TYPE.test(type) && schema !== null;
  const misfit = isHeld ? findMisfit(contract, schema, value, 'response') : null;
  if (misfit !== null && value === null) return [];
  const name = example.name === null ? 'the example' : `the example "${example.name}"`;
  const doubt =
    misfit === null
      ? null
      : `${name} does not fit its schema: ${misfit.at} ${misfit.message}; it is answered as it stands`;
  return [{ type, value: escapeTemplates(value), from: 'example', example, doubt }];
}

/** A JSON example may stand in a document as a text. */
function readJson(contract: Contract, value: unknown, { schema }: ContractMedia): unknown {
  if (typeof value !== 'string' || !/^\s*[{[]/.test(value)) return value;
  const said = schema === null ? null : contract.resolve(schema)?.value;
  if (isJsonMap(said) && said['type'] === 'string') return value;
  try {
    return JSON.parse(value);
  } catch {
    return value;
  }
}

/** What was generated of each schema: operations that answer with the same one answer the same, so that what is read agrees with what was changed. */
const generated = new WeakMap<Contract, Map<string, unknown>>();

function generateOnce(contract: Contract, operation: ContractOperation, schema: ContractNode): unknown {
  const id = placeOfSchema(contract, schema);
  const known = generated.get(contract) ?? new Map<string, unknown>();
  generated.set(contract, known);
  if (!known.has(id)) known.set(id, generateValue(contract, schema, `${operation.method} ${operation.path}`));
  return known.get(id);
}

/** A generated answer repeats the id it was asked for, where such an id may stand there: `GET /berths/N7` answers `id: N7`. */
function agreeWithPath(
  contract: Contract,
  operation: ContractOperation,
  schema: ContractNode,
  value: unknown,
): unknown {
  const last = /\{([^{}]+)\}$/.exec(operation.path)?.[1];
  if (last === undefined || !isJsonMap(value)) return value;
  const member = Object.hasOwn(value, last) ? last : /id$/i.test(last) && Object.hasOwn(value, 'id') ? 'id' : null;
  if (member === null) return value;
  const made = value[member];
  const read = `call.path${memberExpression([last])}`;
  if (typeof made === 'string') {
    return mayBeAsked(contract, operation, schema, last, member) ? { ...value, [member]: `\${${read}}` } : value;
  }
  if (!Number.isInteger(made)) return value;
  return { ...value, [member]: `\${${read}.matches('^-?[0-9]{1,15}$') ? number(${read}) : ${made}}` };
}

/** Whether what calls say for a parameter may stand at a member of the answer. */
function mayBeAsked(
  contract: Contract,
  operation: ContractOperation,
  schema: ContractNode,
  parameter: string,
  member: string,
): boolean {
  const node =
    contract.at(schema, 'properties', member) ?? flattenFirst(contract, schema).properties.get(member)?.[0] ?? null;
  if (node === null || !isJsonMap(node.value) || !LIMITING.some((key) => Object.hasOwn(node.value as object, key)))
    return true;
  const asked = samplePathText(contract, operation, parameter);
  return asked === null || findMisfit(contract, node, asked, 'response') === null;
}

/** Without one of these, a text is as good as any other. */
const LIMITING = ['format', 'pattern', 'enum', 'const', 'minLength', 'maxLength', 'allOf', 'oneOf', 'anyOf'];
