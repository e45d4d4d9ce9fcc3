import { AppError } from '../../errors/app-error.js';
import type { ContractTexts } from '../contract.js';
import { readSchemas } from './read-schemas.js';
import { SchemaSet, XSD } from './schema-set.js';
import { childrenOf, type QName, qualify, readXmlTree, type XmlElement } from './xml-tree.js';

export const WSDL = 'http://schemas.xmlsoap.org/wsdl/';

const NOWHERE = 'contract:/document';

/** A WSDL 1.1 contract of one or more documents, with its schemas. Fails with `file-refused` or `file-unreadable`. */
export class WsdlContract {
  readonly address: string;
  /** The documents with definitions: the main one first, then those it imports. */
  readonly definitions: readonly XmlElement[];
  readonly schemas: SchemaSet;
  readonly texts: ContractTexts;
  /** What leads nowhere. */
  readonly lost: readonly { readonly at: string; readonly reason: string }[];
  readonly #documents = new Map<string, XmlElement | null>();

  constructor(text: string, address: string = NOWHERE, texts: ContractTexts = new Map()) {
    this.address = address;
    this.texts = new Map([...texts, [address, text]]);
    const main = readXmlTree(text, address);
    if (main.name !== 'definitions' || main.namespace !== WSDL)
      throw new AppError(
        'file-unreadable',
        `a WSDL 1.1 document is expected (definitions of ${WSDL}); this one is <${main.name}>${main.namespace === '' ? '' : ` of ${main.namespace}`}`,
      );
    this.#documents.set(address, main);
    const lost: { at: string; reason: string }[] = [];
    const report = (node: XmlElement, reason: string) => lost.push({ at: this.describe(node), reason });
    this.definitions = this.#readDefinitions(main, report);
    const inline = this.definitions.flatMap((root) =>
      childrenOf(root, WSDL, 'types').flatMap((types) => childrenOf(types, XSD, 'schema')),
    );
    const imported = [...this.#documents.values()].filter((root) => root?.name === 'schema' && root.namespace === XSD);
    const starts = [...inline, ...imported.flatMap((root) => root ?? [])];
    this.schemas = new SchemaSet(readSchemas(starts, (own) => this.#open(own), report));
    this.lost = lost;
  }

  /** A message, port type, binding by its name; null when there is none. */
  find(kind: 'message' | 'portType' | 'binding', name: QName): XmlElement | null {
    for (const root of this.definitions) {
      const namespace = root.attributes['targetNamespace'] ?? '';
      const own = childrenOf(root, WSDL, kind).find(
        (child) => qualify(namespace, child.attributes['name'] ?? '') === name,
      );
      if (own !== undefined) return own;
    }
    return null;
  }

  /** `operation lodgeManifest (line 12)`, with its file where that is another than the main one. */
  describe(node: XmlElement): string {
    const file = node.document === this.address ? '' : `${node.document.split('/').at(-1) ?? ''} `;
    const name = node.attributes['name'] ?? node.attributes['element'] ?? node.attributes['ref'];
    return `${file}${node.name}${name === undefined ? '' : ` ${name}`} (line ${node.line})`;
  }

  #readDefinitions(main: XmlElement, report: (node: XmlElement, reason: string) => void): XmlElement[] {
    const found = [main];
    const seen = new Set([main.document]);
    for (const root of found)
      for (const link of childrenOf(root, WSDL, 'import')) {
        const location = link.attributes['location'];
        const address = location === undefined ? null : new URL(location, root.document).href;
        if (address === null || seen.has(address)) continue;
        seen.add(address);
        const other = this.#open(address);
        if (other === null) report(link, `it leads to ${location}, which was not read`);
        else if (other.name === 'definitions') found.push(other);
      }
    return found;
  }

  #open(address: string): XmlElement | null {
    const known = this.#documents.get(address);
    if (known !== undefined) return known;
    const text = this.texts.get(address);
    const document = text === undefined ? null : readXmlTree(text, address);
    this.#documents.set(address, document);
    return document;
  }
}
