import { renderEnvelope } from '../../soap/render-envelope.js';
import type { SoapVersion } from '../../soap/soap-version.js';
import { generateElement, type MadeElement } from './generate-markup.js';
import type { SoapOperation, SoapPart } from './read-soap-operations.js';
import { writeMarkup } from './write-markup.js';
import type { WsdlContract } from './wsdl-contract.js';
import { splitName } from './xml-tree.js';

/** A valid envelope of an operation's call, another one at each turn. `change` may leave parts of its body out. */
export function writeSampleEnvelope(
  contract: WsdlContract,
  operation: SoapOperation,
  version: SoapVersion,
  turn: number,
  change: (body: MadeElement) => MadeElement = (body) => body,
): string {
  const write = (part: SoapPart, own: (made: MadeElement) => MadeElement): string => {
    const made = makePart(contract, part, `sample ${operation.name}${turn === 0 ? '' : ` ${turn}`}`);
    return made === null ? '' : writeMarkup(own(made), prefixesOf(contract));
  };
  const header = operation.inputHeaders.map((part) => write(part, (made) => made)).join('');
  return renderEnvelope(version, header, operation.input === null ? '' : write(operation.input, change));
}

export function makePart(contract: WsdlContract, part: SoapPart, place: string): MadeElement | null {
  return generateElement(contract.schemas, part.element, place);
}

/** The prefixes that the documents have for their namespaces. */
export function prefixesOf(contract: WsdlContract): ReadonlyMap<string, string> {
  const found = new Map<string, string>();
  const taken = new Set<string>(['soap', 'xml', 'xsi']);
  const nodes = [...contract.definitions, ...contract.schemas.schemas.map(({ node }) => node)];
  for (const { prefixes } of nodes)
    for (const [prefix, namespace] of Object.entries(prefixes)) {
      if (prefix === '' || found.has(namespace) || taken.has(prefix)) continue;
      found.set(namespace, prefix);
      taken.add(prefix);
    }
  return found;
}

/** Elements without children, by the path of their local names; those that stand in lists are left out. */
export function leavesOf(element: MadeElement): ReadonlyMap<string, MadeElement> {
  const found = new Map<string, MadeElement>();
  const visit = (node: MadeElement, path: string): void => {
    if (node.children.length === 0) found.set(path, node);
    for (const child of node.children) {
      const isRepeated = node.children.filter(({ name }) => name === child.name).length > 1;
      if (!isRepeated) visit(child, `${path}/${splitName(child.name)[1]}`);
    }
  };
  visit(element, '');
  return found;
}
