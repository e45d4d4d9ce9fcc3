import { isMap, type JsonMap, type OpenApiDocument, readOpenApi } from '../contract/openapi-document.js';
import { filesOf, splitBodies, withReferences } from '../definition/beside/split-bodies.js';
import { writeServiceFile } from '../definition/write-service-file.js';
import { addressShape, parseOperationAddress } from '../matching/path-template.js';
import { type ContractCase, draftResponses } from './contract-cases.js';
import type { Draft, DraftDecision } from './draft.js';
import { operationName } from './operation-name.js';

export interface DraftOpenApiOptions {
  readonly service: string | null;
  readonly port: number | null;
}

const METHODS = ['get', 'put', 'post', 'delete', 'options', 'head', 'patch', 'trace'];

interface Found {
  readonly on: string;
  readonly definition: JsonMap;
  readonly at: readonly string[];
}

/** A service from an OpenAPI 3.0 or 3.1 document: an operation for each of its own, cases from its examples, else generated from its schemas. */
export function draftOpenApi(text: string, options: DraftOpenApiOptions): Draft {
  const document = readOpenApi(text);
  const unusable: { at: string; reason: string }[] = [];
  const decisions: DraftDecision[] = [];
  const taken = new Set<string>();
  const operations: Record<string, unknown> = {};
  let cases = 0;
  for (const { on, definition, at } of findOperations(document, unusable)) {
    const name = nameOperation(definition, on, taken);
    const drafted = draftResponses(document, definition, on, (reason, where) =>
      unusable.push({ at: pointer([...at, ...where], document), reason }),
    );
    cases += drafted.length;
    decisions.push({ of: name, concluded: describeCases(drafted), evidence: `${pointer(at, document)}` });
    const title = typeof definition['summary'] === 'string' ? { title: definition['summary'] } : {};
    operations[name] = { on, ...title, cases: drafted.map((item) => item.definition) };
  }
  const service = options.service ?? nameService(document);
  const definition = {
    upsetter: 1,
    service,
    ...versionOf(document),
    ...(options.port === null ? {} : { listen: { port: options.port } }),
    operations,
  };
  const comment = `Drafted from the contract ${infoText(document, 'title')} ${infoText(document, 'version')}`.trim();
  const bodies = splitBodies(definition, service);
  return {
    service,
    text: writeServiceFile(withReferences(definition, bodies), [{ path: [], text: comment }]),
    files: filesOf(bodies),
    operations: Object.keys(operations).length,
    cases,
    decisions,
    level: null,
    fidelity: null,
    unusable,
  };
}

function findOperations(document: OpenApiDocument, unusable: { at: string; reason: string }[]): Found[] {
  const found: Found[] = [];
  const shapes = new Map<string, string>();
  const paths = document.root['paths'];
  if (!isMap(paths)) unusable.push({ at: pointer(['paths'], document), reason: 'the document has no paths' });
  for (const [template, raw] of Object.entries(isMap(paths) ? paths : {})) {
    if (template.startsWith('x-')) continue;
    const item = document.resolve(raw);
    if (!isMap(item)) {
      unusable.push({
        at: pointer(['paths', template], document),
        reason: 'its $ref leads nowhere (references to other files are not supported yet)',
      });
      continue;
    }
    for (const method of METHODS) {
      const definition = document.resolve(item[method]);
      if (!isMap(definition)) continue;
      const on = `${method.toUpperCase()} ${template}`;
      const at = ['paths', template, method];
      const reason = refuseAddress(on, shapes);
      if (reason === null) found.push({ on, definition, at });
      else unusable.push({ at: pointer(at, document), reason });
    }
  }
  return found;
}

/** Why a service cannot have an operation at this address; null when it can. `shapes`: those it has, by what they answer. */
function refuseAddress(on: string, shapes: Map<string, string>): string | null {
  const parsed = parseOperationAddress(on);
  if (parsed.kind === 'refused') return parsed.message;
  const shape = addressShape(parsed.address);
  const twin = shapes.get(shape);
  if (twin !== undefined) return `${twin} answers the same paths already`;
  shapes.set(shape, on);
  return null;
}

function nameOperation(definition: JsonMap, on: string, taken: Set<string>): string {
  const id = definition['operationId'];
  const name = typeof id === 'string' ? id.replaceAll(/[^\w.-]+/g, '-').replace(/^[^A-Za-z_]+/, '') : '';
  if (name === '' || taken.has(name)) return operationName(on, taken);
  taken.add(name);
  return name;
}

function nameService(document: OpenApiDocument): string {
  const name = infoText(document, 'title')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replaceAll(/^-+|-+$/g, '')
    .slice(0, 64);
  return name === '' ? 'service' : name;
}

function versionOf(document: OpenApiDocument): { version?: string } {
  const version = infoText(document, 'version');
  return version === '' ? {} : { version };
}

function infoText(document: OpenApiDocument, key: string): string {
  const info = document.root['info'];
  return isMap(info) && info[key] !== undefined ? String(info[key]) : '';
}

function describeCases(cases: readonly ContractCase[]): string {
  const count = (from: ContractCase['from']) => cases.filter((item) => item.from === from).length;
  const words = [
    count('example') > 0 ? `${count('example')} from examples` : '',
    count('schema') > 0 ? `${count('schema')} generated from schemas` : '',
    count('nothing') > 0 ? `${count('nothing')} without a body` : '',
  ];
  return `${cases.length === 1 ? '1 case' : `${cases.length} cases`}: ${words.filter((word) => word !== '').join(', ')}`;
}

/** A JSON Pointer with its line: `#/paths/~1berths/get (line 12)`. */
function pointer(path: readonly string[], document: OpenApiDocument): string {
  return `#/${path.map((key) => key.replaceAll('~', '~0').replaceAll('/', '~1')).join('/')} (line ${document.line(path)})`;
}
