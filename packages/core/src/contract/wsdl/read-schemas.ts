import { resolveAddress } from '../contract.js';
import { XSD, type XsdSchema } from './schema-set.js';
import type { XmlElement } from './xml-tree.js';

/** How a document that is referred to is opened; null: it cannot be. */
export type OpenDocument = (address: string) => XmlElement | null;

/** The schemas of a document and those they import, include or redefine; what cannot be opened is told. */
export function readSchemas(
  starts: readonly XmlElement[],
  open: OpenDocument,
  report: (node: XmlElement, reason: string) => void,
): XsdSchema[] {
  const found: XsdSchema[] = [];
  const seen = new Set<string>();
  const visit = (node: XmlElement, asNamespace: string | null): void => {
    // An included schema without a namespace of its own takes that of the one that includes it.
    const targetNamespace = node.attributes['targetNamespace'] ?? asNamespace ?? '';
    found.push({ node, targetNamespace });
    for (const child of node.children) {
      const location = child.attributes['schemaLocation'];
      if (child.namespace !== XSD || !/^(import|include|redefine)$/.test(child.name) || location === undefined)
        continue;
      const address = resolveAddress(location, child.document);
      const own = child.name === 'import' ? null : targetNamespace;
      const key = `${address} ${own ?? ''}`;
      if (address === null || seen.has(key)) continue;
      seen.add(key);
      const other = open(address);
      if (other === null) report(child, `it leads to ${location}, which was not read`);
      else visit(other, own);
    }
  };
  for (const start of starts) visit(start, null);
  return found;
}

/** The addresses that a document of a WSDL contract leads to. */
export function findReferredXml(root: XmlElement): string[] {
  const found = new Set<string>();
  const visit = (node: XmlElement): void => {
    const isReference = /^(import|include|redefine)$/.test(node.name);
    const location = node.attributes['schemaLocation'] ?? node.attributes['location'];
    const address = isReference && location !== undefined ? resolveAddress(location, node.document) : null;
    if (address !== null) found.add(address);
    for (const child of node.children) visit(child);
  };
  visit(root);
  return [...found];
}
