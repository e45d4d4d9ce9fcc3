import { isJsonMap } from '../definition/json-map.js';
import { type Contract, type ContractNode, childOf } from './contract.js';
import type { SecurityScheme } from './contract-operation.js';

/** The credentials that an operation asks for: its own, else those of the whole contract. */
export function readSecurity(contract: Contract, operation: ContractNode): SecurityScheme[][] {
  const own = childOf(operation, 'security') ?? childOf(contract.root(), 'security');
  const alternatives = contract
    .children(own)
    .map(([, alternative]) => contract.children(alternative).map(([name]) => readScheme(contract, name)));
  // An alternative without schemes means that credentials may be left out.
  return alternatives.some((schemes) => schemes.length === 0) ? [] : alternatives;
}

function readScheme(contract: Contract, name: string): SecurityScheme {
  const root = contract.root();
  const scheme =
    contract.dialect === '2.0'
      ? contract.at(root, 'securityDefinitions', name)
      : contract.at(root, 'components', 'securitySchemes', name);
  if (scheme === null || !isJsonMap(scheme.value)) return { place: null, prefix: null };
  const { type, in: place, name: field, scheme: http } = scheme.value;
  if (type === 'mutualTLS') return { place: null, prefix: null };
  if (type !== 'apiKey') return { place: 'header authorization', prefix: prefixOf(type, http) };
  return {
    place: typeof field === 'string' ? `${String(place)} ${placeName(String(place), field)}` : null,
    prefix: null,
  };
}

/** OAuth 2 and OpenID Connect send bearer tokens (RFC 6750). */
function prefixOf(type: unknown, http: unknown): string {
  const scheme = type === 'http' ? String(http).toLowerCase() : type === 'basic' ? 'basic' : 'bearer';
  return `${scheme} `;
}

function placeName(place: string, name: string): string {
  return place === 'header' ? name.toLowerCase() : name;
}
