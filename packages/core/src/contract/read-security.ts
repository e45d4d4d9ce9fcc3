import { type Contract, type ContractNode, childOf } from './contract.js';
import type { SecurityScheme } from './contract-operation.js';

/** The credentials that an operation asks for: its own, else those of the whole contract. */
export function readSecurity(contract: Contract, operation: ContractNode): SecurityScheme[][] {
  const own = childOf(operation, 'security') ?? childOf(contract.root(), 'security');
  const alternatives = contract
    .children(own)
    .map(([, alternative]) => contract.children(alternative).map(([name]) => ({ place: placeOf(contract, name) })));
  // An alternative without schemes means that credentials may be left out.
  return alternatives.some((schemes) => schemes.length === 0) ? [] : alternatives;
}

function placeOf(contract: Contract, name: string): string | null {
  const root = contract.root();
  const scheme =
    contract.dialect === '2.0'
      ? contract.at(root, 'securityDefinitions', name)
      : contract.at(root, 'components', 'securitySchemes', name);
  if (scheme === null) return null;
  const { type, in: place, name: field } = scheme.value as Readonly<Record<string, unknown>>;
  if (type === 'apiKey')
    return typeof field === 'string' ? `${String(place)} ${placeName(String(place), field)}` : null;
  return type === 'mutualTLS' ? null : 'header authorization';
}

function placeName(place: string, name: string): string {
  return place === 'header' ? name.toLowerCase() : name;
}
