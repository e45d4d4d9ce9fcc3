import { isMap, readOpenApi } from '../contract/openapi-document.js';
import { parseOperationAddress } from '../matching/path-template.js';
import { SegmentTrie } from '../matching/segment-trie.js';

/** One path of a contract, with the names of its operations by method. */
export interface ContractPath {
  /** Literal segments as they are, parameters as null. */
  readonly parts: readonly (string | null)[];
  readonly paramNames: readonly (string | null)[];
  readonly operationIds: ReadonlyMap<string, string>;
}

/** Finds the path of a contract that a request's path is one of; null when it has none. */
export type FindContractPath = (path: string) => ContractPath | null;

const METHODS = ['get', 'put', 'post', 'delete', 'options', 'head', 'patch', 'trace'];
const WORD = /^[A-Za-z_][\w.-]*$/;

/** The paths of an OpenAPI document, to name what was heard. The path of its first server may stand before them. Fails as `readOpenApi` does. */
export function readContractPaths(text: string): FindContractPath {
  const { root, resolve } = readOpenApi(text);
  const trie = new SegmentTrie<ContractPath>();
  const paths = isMap(root['paths']) ? root['paths'] : {};
  for (const [template, raw] of Object.entries(paths)) {
    const item = resolve(raw);
    const parsed = parseOperationAddress(`* ${template}`);
    if (!isMap(item) || parsed.kind === 'refused') continue;
    const ids = METHODS.flatMap((method) => {
      const operation = resolve(item[method]);
      const id = isMap(operation) ? operation['operationId'] : undefined;
      return typeof id === 'string' && WORD.test(id) ? [[method.toUpperCase(), id] as const] : [];
    });
    const { segments } = parsed.address;
    trie.add(parsed.address, {
      parts: segments.map((segment) => (segment.kind === 'literal' ? segment.text : null)),
      paramNames: segments.map((segment) => (segment.kind === 'literal' ? null : segment.name)),
      operationIds: new Map(ids),
    });
  }
  const base = basePathOf(root);
  return (path) =>
    lookUp(trie, path) ??
    (base !== '' && path.startsWith(`${base}/`) ? under(base, lookUp(trie, path.slice(base.length))) : null);
}

function lookUp(trie: SegmentTrie<ContractPath>, path: string): ContractPath | null {
  const match = trie.match('GET', path);
  return match.kind === 'found' ? match.value : null;
}

function under(base: string, found: ContractPath | null): ContractPath | null {
  if (found === null) return null;
  const prefix = base.slice(1).split('/');
  return { ...found, parts: [...prefix, ...found.parts], paramNames: [...prefix.map(() => null), ...found.paramNames] };
}

function basePathOf(root: Readonly<Record<string, unknown>>): string {
  const [server] = Array.isArray(root['servers']) ? (root['servers'] as unknown[]) : [];
  const url = isMap(server) ? server['url'] : undefined;
  if (typeof url !== 'string') return '';
  const path = url.replace(/^[a-z]+:\/\/[^/]*/i, '').replace(/\/$/, '');
  return path.startsWith('/') && !path.includes('{') ? path : '';
}
