import { escapeMarkup } from '../../xml/markup-text.js';
import { resolveAddress } from '../contract.js';
import type { WsdlContract } from './wsdl-contract.js';

/**
 * The text of a contract's document with the address it is asked at: `location` of its ports, and references to its other
 * documents, which are asked for by name. `name` empty: the main document. Null: there is none of this name.
 */
export function renderWsdl(contract: WsdlContract, name: string, url: string): string | null {
  const names = nameDocuments(contract);
  const address = name === '' ? contract.address : [...names].find(([, own]) => own === name)?.[0];
  const text = address === undefined ? undefined : contract.texts.get(address);
  if (address === undefined || text === undefined) return null;
  const documents = text.replaceAll(
    /\b(schemaLocation|location)(\s*=\s*)("[^"]*"|'[^']*')/g,
    (whole, key: string, equals: string, quoted: string) => {
      const target = resolveAddress(quoted.slice(1, -1), address);
      const known = target === null ? undefined : names.get(target);
      return known === undefined
        ? whole
        : `${key}${equals}"${escapeMarkup(`${url}?wsdl=${encodeURIComponent(known)}`)}"`;
    },
  );
  return documents.replaceAll(
    /(<(?:[\w.-]+:)?address\b[^>]*?\blocation\s*=\s*)("[^"]*"|'[^']*')/g,
    (_whole, before: string) => `${before}"${escapeMarkup(url)}"`,
  );
}

/** Each document by the last part of its address; more of it where two would be called the same. */
function nameDocuments({ texts }: WsdlContract): ReadonlyMap<string, string> {
  const names = new Map<string, string>();
  const taken = new Set<string>();
  for (const address of texts.keys()) {
    const steps = address.split('/');
    let length = 1;
    while (length < steps.length && taken.has(steps.slice(-length).join('/'))) length++;
    const name = steps.slice(-length).join('/');
    taken.add(name);
    names.set(address, name);
  }
  return names;
}
