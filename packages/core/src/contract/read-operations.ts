import { isJsonMap } from '../definition/json-map.js';
import { type Contract, type ContractNode, childOf } from './contract.js';
import type { ContractOperation, ContractParameter } from './contract-operation.js';
import { readBody, readParameter, readResponse } from './read-parts.js';
import { readSecurity } from './read-security.js';

/** What cannot be used: where it stands, and why. */
export type ReportUnusable = (node: ContractNode, reason: string) => void;

const METHODS = ['get', 'put', 'post', 'delete', 'options', 'head', 'patch', 'trace'];

/** The operations of a contract, in its order. `base`: whether the first server's base path stands before each path. */
export function readOperations(contract: Contract, base: boolean, report: ReportUnusable): ContractOperation[] {
  const root = contract.root();
  const paths = contract.at(root, 'paths');
  if (paths === null || !isJsonMap(paths.value)) {
    report(root, 'the document has no paths');
    return [];
  }
  const prefix = base ? basePathOf(contract) : '';
  return contract.children(paths).flatMap(([template, raw]) => {
    if (template.startsWith('x-')) return [];
    const item = contract.resolve(raw);
    if (item === null || !isJsonMap(item.value)) {
      report(raw, contract.explainLost(raw));
      return [];
    }
    return METHODS.flatMap((method) => {
      const node = contract.at(item, method);
      if (node === null || !isJsonMap(node.value)) return [];
      return [readOperation(contract, { node, item, method, path: prefix + withSlash(template) }, report)];
    });
  });
}

interface Found {
  readonly node: ContractNode;
  readonly item: ContractNode;
  readonly method: string;
  readonly path: string;
}

function readOperation(contract: Contract, found: Found, report: ReportUnusable): ContractOperation {
  const { node, item } = found;
  const parameters = [...listOf(contract, node, report), ...listOf(contract, item, report)];
  const responses = contract.at(node, 'responses');
  if (responses === null || contract.children(responses).length === 0) report(node, 'the operation has no responses');
  return {
    method: found.method.toUpperCase(),
    path: found.path,
    id: textAt(node, 'operationId'),
    title: textAt(node, 'summary'),
    tags: contract.children(childOf(node, 'tags')).map(([, tag]) => String(tag.value)),
    parameters: readParameters(contract, parameters),
    body: readBody(contract, node, parameters),
    responses: contract.children(responses).flatMap(([code, raw]) => {
      if (code.startsWith('x-')) return [];
      const response = contract.resolve(raw);
      if (response !== null) return [readResponse(contract, code, response, node)];
      report(raw, contract.explainLost(raw));
      return [];
    }),
    security: readSecurity(contract, node),
    node,
  };
}

function listOf(contract: Contract, node: ContractNode, report: ReportUnusable): ContractNode[] {
  return contract.children(contract.at(node, 'parameters')).flatMap(([, raw]) => {
    const parameter = contract.resolve(raw);
    if (parameter !== null && isJsonMap(parameter.value)) return [parameter];
    report(raw, contract.explainLost(raw));
    return [];
  });
}

/** An operation's own parameter goes over that of its path of the same name and place. */
function readParameters(contract: Contract, nodes: readonly ContractNode[]): ContractParameter[] {
  const found = new Map<string, ContractParameter>();
  for (const node of nodes) {
    const parameter = readParameter(contract, node);
    const id = parameter === null ? '' : `${parameter.place} ${parameter.name}`;
    if (parameter !== null && !found.has(id)) found.set(id, parameter);
  }
  return [...found.values()];
}

function withSlash(template: string): string {
  return template.startsWith('/') ? template : `/${template}`;
}

function textAt(node: ContractNode, key: string): string | null {
  const value = childOf(node, key)?.value;
  return typeof value === 'string' && value !== '' ? value : null;
}

/** `/harbour` of the first server, its variables at their defaults; of `basePath` in Swagger 2.0. */
export function basePathOf(contract: Contract): string {
  const root = contract.root();
  if (contract.dialect === '2.0') return trimSlash(textAt(root, 'basePath') ?? '');
  const server = contract.at(root, 'servers', '0');
  const url = server === null ? null : textAt(server, 'url');
  if (url === null) return '';
  const filled = url.replaceAll(/\{([^}]*)\}/g, (_, name: string) =>
    String(contract.at(server, 'variables', name, 'default')?.value ?? ''),
  );
  return trimSlash(filled.replace(/^[a-z][a-z0-9+.-]*:\/\/[^/]*/i, '').replace(/^\/\/[^/]*/, ''));
}

function trimSlash(path: string): string {
  const trimmed = path.replace(/[?#].*$/, '').replace(/\/+$/, '');
  return trimmed === '' || trimmed.startsWith('/') ? trimmed : `/${trimmed}`;
}
