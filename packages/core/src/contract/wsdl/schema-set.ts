import { childrenOf, type QName, qualify, resolveName, type XmlElement } from './xml-tree.js';

export const XSD = 'http://www.w3.org/2001/XMLSchema';

/** One schema document, or one that stands in a WSDL document. */
export interface XsdSchema {
  readonly node: XmlElement;
  readonly targetNamespace: string;
}

/** A declaration with the schema that it stands in. */
export interface XsdComponent {
  readonly node: XmlElement;
  readonly schema: XsdSchema;
}

type Kind = 'element' | 'type' | 'group' | 'attribute' | 'attributeGroup';

const KINDS: Readonly<Record<string, Kind>> = {
  element: 'element',
  complexType: 'type',
  simpleType: 'type',
  group: 'group',
  attribute: 'attribute',
  attributeGroup: 'attributeGroup',
};

/** The global declarations of several schemas, by kind and name. What is asked for and is not there is null. */
export class SchemaSet {
  readonly schemas: readonly XsdSchema[];
  readonly #components = new Map<string, XsdComponent>();
  /** Elements that may stand in the place of another, and types that extend another: by the name of that. */
  readonly #substitutes = new Map<QName, QName[]>();
  readonly #derived = new Map<QName, QName[]>();

  constructor(schemas: readonly XsdSchema[]) {
    this.schemas = schemas;
    for (const schema of schemas) for (const node of schema.node.children) this.#add(schema, node);
  }

  find(kind: Kind, name: QName): XsdComponent | null {
    return this.#components.get(`${kind} ${name}`) ?? null;
  }

  substitutesOf(element: QName): readonly QName[] {
    return this.#substitutes.get(element) ?? [];
  }

  derivedFrom(type: QName): readonly QName[] {
    return this.#derived.get(type) ?? [];
  }

  #add(schema: XsdSchema, node: XmlElement): void {
    const kind = node.namespace === XSD ? KINDS[node.name] : undefined;
    const local = node.attributes['name'];
    if (kind === undefined || local === undefined) return;
    const name = qualify(schema.targetNamespace, local);
    if (!this.#components.has(`${kind} ${name}`)) this.#components.set(`${kind} ${name}`, { node, schema });
    const head = node.attributes['substitutionGroup'];
    if (head !== undefined) push(this.#substitutes, resolveName(head, node), name);
    const base = baseOf(node);
    if (base !== null) push(this.#derived, base, name);
  }
}

function push(map: Map<QName, QName[]>, key: QName, value: QName): void {
  map.set(key, [...(map.get(key) ?? []), value]);
}

function baseOf(type: XmlElement): QName | null {
  for (const content of [...childrenOf(type, XSD, 'complexContent'), ...childrenOf(type, XSD, 'simpleContent')])
    for (const way of content.children) {
      const base = way.attributes['base'];
      if (base !== undefined) return resolveName(base, way);
    }
  return null;
}
