import { Contract } from '../contract/contract.js';
import type { ContractOperation } from '../contract/contract-operation.js';
import { basePathOf, readOperations } from '../contract/read-operations.js';
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

const WORD = /^[A-Za-z_][\w.-]*$/;

/** The paths of a contract, to name what was heard. The path of its first server may stand before them. Fails as `Contract` does. */
export function readContractPaths(text: string): FindContractPath {
  const contract = new Contract(text);
  const trie = new SegmentTrie<ContractPath>();
  const byPath = new Map<string, ContractOperation[]>();
  for (const operation of readOperations(contract, false, () => {}))
    byPath.set(operation.path, [...(byPath.get(operation.path) ?? []), operation]);
  for (const [path, operations] of byPath) {
    const parsed = parseOperationAddress(`* ${path}`);
    if (parsed.kind === 'refused') continue;
    const ids = operations.flatMap(({ method, id }) => (id !== null && WORD.test(id) ? [[method, id] as const] : []));
    const { segments } = parsed.address;
    // Paths that were heard have parameters for whole segments only.
    if (segments.some(({ kind }) => kind === 'mixed')) continue;
    trie.add(parsed.address, {
      parts: segments.map((segment) => (segment.kind === 'literal' ? segment.text : null)),
      paramNames: segments.map((segment) => ('name' in segment ? segment.name : null)),
      operationIds: new Map(ids),
    });
  }
  const base = basePathOf(contract);
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
