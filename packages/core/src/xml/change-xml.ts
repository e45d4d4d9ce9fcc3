import fontoxpath from 'fontoxpath';
import { type Attr, type Element, type Node, serializeToWellFormedString } from 'slimdom';
import type { Namespaces } from './compile-xpath.js';
import { parseXml } from './parse-xml.js';

/**
 * XML with another text in what a path selects, or (null) without it. The same where the path selects no element or
 * attribute, or the text is no XML.
 */
export function changeXml(text: string, path: string, namespaces: Namespaces, value: string | null): string {
  const parsed = parseXml(text);
  if (parsed.kind === 'broken') return text;
  for (const node of selectNodes(path, parsed.document, namespaces)) {
    if (value !== null) (node as Element).textContent = value;
    else if (node.nodeType === node.ATTRIBUTE_NODE) {
      const attribute = node as Attr;
      attribute.ownerElement?.removeAttributeNode(attribute);
    } else node.parentNode?.removeChild(node as Element);
  }
  return serializeToWellFormedString(parsed.document);
}

function selectNodes(path: string, document: Node, namespaces: Namespaces): readonly Node[] {
  try {
    return fontoxpath.evaluateXPathToNodes(path, document as never, null, {}, {
      namespaceResolver: (prefix: string) => (Object.hasOwn(namespaces, prefix) ? namespaces[prefix] : null) ?? null,
    } as never) as never;
  } catch {
    return [];
  }
}
