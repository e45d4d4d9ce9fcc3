import { isJsonMap, type JsonMap } from '../../definition/json-map.js';
import type { Contract } from '../contract.js';
import type { ContractParameter } from '../contract-operation.js';

/** How a parameter's value is written down in a call (OpenAPI 3.1, 4.8.12.2; `collectionFormat` of Swagger 2.0). */
export interface ParameterStyle {
  readonly kind: 'form' | 'simple' | 'label' | 'matrix' | 'spaceDelimited' | 'pipeDelimited' | 'deepObject' | 'json';
  /** What stands between the items of a list. */
  readonly separator: string;
  readonly isExploded: boolean;
}

const SEPARATORS: Readonly<Record<string, string>> = { spaceDelimited: ' ', pipeDelimited: '|' };
const OLD_SEPARATORS: Readonly<Record<string, string>> = { ssv: ' ', tsv: '\t', pipes: '|' };
const KINDS = ['form', 'simple', 'label', 'matrix', 'spaceDelimited', 'pipeDelimited', 'deepObject'] as const;

export function readStyle(contract: Contract, { node, place }: ContractParameter): ParameterStyle {
  const value = isJsonMap(node.value) ? node.value : {};
  if (value['content'] !== undefined) return { kind: 'json', separator: '', isExploded: false };
  const usual = place === 'query' || place === 'cookie' ? 'form' : 'simple';
  return contract.dialect === '2.0' ? readOldStyle(value, usual) : readNewStyle(value, usual);
}

function readNewStyle(value: JsonMap, usual: 'form' | 'simple'): ParameterStyle {
  const kind = KINDS.find((known) => known === value['style']) ?? usual;
  const explode = value['explode'];
  const isExploded = typeof explode === 'boolean' ? explode : kind === 'form' || kind === 'deepObject';
  return { kind, separator: SEPARATORS[kind] ?? ',', isExploded };
}

function readOldStyle(value: JsonMap, usual: 'form' | 'simple'): ParameterStyle {
  const format = String(value['collectionFormat'] ?? 'csv');
  return { kind: usual, separator: OLD_SEPARATORS[format] ?? ',', isExploded: format === 'multi' };
}
