import {
  XmlElement as LibElement,
  XsdValidator as LibValidator,
  XmlBufferInputProvider,
  XmlDocument,
  XmlLibError,
  xmlCleanupInputProvider,
  xmlRegisterInputProvider,
} from 'libxml2-wasm';
import { findNearest } from '../../definition/nearest.js';
import { escapeMarkup } from '../../xml/markup-text.js';
import { type SchemaSet, XSD, type XsdSchema } from './schema-set.js';
import { qualify, splitName, type XmlElement } from './xml-tree.js';

/** One way in which an element is not as its schema says. */
export interface XmlFinding {
  /** The path of the element: `/lodgeManifest/manifest/line[2]/tonnes`. */
  readonly at: string;
  readonly message: string;
}

/** Holds elements against a set of schemas. Made when first asked for; schemas that are broken hold nothing against anybody. */
export class XsdValidator {
  readonly #set: SchemaSet;
  #validator: LibValidator | null | undefined;
  /** Why there is no validating; null: there is. */
  trouble: string | null = null;

  constructor(set: SchemaSet) {
    this.#set = set;
  }

  /** What is wrong with the elements in the body of an envelope (and with those of its header that schemas know); null when nothing is. */
  checkEnvelope(envelope: string): readonly XmlFinding[] | null {
    return this.#check(envelope, "/*/*[local-name() = 'Body' or local-name() = 'Header']/*", 3);
  }

  /** The same of what stands in the detail of a fault. */
  checkFault(envelope: string): readonly XmlFinding[] | null {
    return this.#check(envelope, "/*/*/*/*[local-name() = 'detail' or local-name() = 'Detail']/*", 5);
  }

  /** `depth`: how many steps of a path lead to the elements. */
  #check(envelope: string, path: string, depth: number): readonly XmlFinding[] | null {
    const validator = this.#open();
    const document = validator === null ? null : tryParse(envelope);
    if (validator === null || document === null) return null;
    try {
      const findings = document.find(path).flatMap((node) => {
        const element = node as LibElement;
        const isKnown = this.#set.find('element', qualify(element.namespaceUri, element.name)) !== null;
        return isKnown ? validate(validator, element, depth) : [];
      });
      return findings.length === 0 ? null : findings;
    } finally {
      document.dispose();
    }
  }

  #open(): LibValidator | null {
    if (this.#validator === undefined) {
      try {
        this.#validator = compile(this.#set.schemas);
      } catch (error) {
        this.trouble = (error as Error).message.trim();
        this.#validator = null;
      }
    }
    return this.#validator;
  }
}

function tryParse(text: string): XmlDocument | null {
  try {
    return XmlDocument.fromString(text.trimStart());
  } catch {
    return null;
  }
}

function validate(validator: LibValidator, element: LibElement, depth: number): XmlFinding[] {
  try {
    validator.validate(element);
    return [];
  } catch (error) {
    if (!(error instanceof XmlLibError)) throw error;
    return error.details.map(({ message, xpath = '' }) => ({
      at: describePath(findElement(element, xpath), depth),
      message: suggest(plain(message)),
    }));
  }
}

/** `/lodgeManifest/manifest/line[2]`: names without prefixes, which each caller has of its own; numbers where there are several. */
function describePath(element: LibElement | null, depth: number): string {
  const steps: string[] = [];
  for (let node = element; node !== null; node = node.parent) {
    const { name, namespaceUri } = node;
    const twins = childElements(node.parent).filter((own) => own.name === name && own.namespaceUri === namespaceUri);
    const position = twins.findIndex((own) => own.isSameNode(node as LibElement)) + 1;
    steps.unshift(twins.length > 1 ? `${name}[${position}]` : name);
  }
  return `/${steps.slice(depth - 1).join('/')}`;
}

/** The element of a path that is written with the prefixes of its document; null when it cannot be told. */
function findElement({ doc }: LibElement, path: string): LibElement | null {
  const prefixes: Record<string, string> = {};
  const collect = (element: LibElement): void => {
    Object.assign(prefixes, element.localNamespaces);
    childElements(element).forEach(collect);
  };
  collect(doc.root);
  try {
    const found = doc.get(path, prefixes);
    return found instanceof LibElement ? found : null;
  } catch {
    return null;
  }
}

function childElements(parent: LibElement | null): LibElement[] {
  const found: LibElement[] = [];
  for (let node = parent?.firstChild ?? null; node !== null; node = node.next)
    if (node instanceof LibElement) found.push(node);
  return found;
}

/** What a value was likely meant to be, where it has to be one of a list. */
function suggest(message: string): string {
  const [, value = '', list = ''] = /^The value '([^']*)' is not an element of the set \{(.*)\}$/.exec(message) ?? [];
  const nearest =
    list === ''
      ? null
      : findNearest(
          value,
          [...list.matchAll(/'([^']*)'/g)].map(([, own]) => own ?? ''),
        );
  return nearest === null ? message : `${message}; did you mean '${nearest}'?`;
}

/** `Element '{urn:x}tonnes': 'x' is not a valid ...` without the element, which the path names, and without namespaces. */
function plain(message: string): string {
  return message
    .trim()
    .replace(/^Element '[^']*'(, attribute '([^']*)')?: (\[[^\]]*\] )?/, (_all, _attribute, name?: string) =>
      name === undefined ? '' : `attribute ${name}: `,
    )
    .replaceAll(/\{[^}' ]*\}(?=\w)/g, '')
    .replace(/\.$/, '');
}

const FOLDER = 'memory:///';

/** All schemas as one: a document for each namespace that includes those of that namespace. */
function compile(schemas: readonly XsdSchema[]): LibValidator {
  const files: Record<string, Uint8Array> = {};
  const encoder = new TextEncoder();
  const namespaces = [...new Set(schemas.map(({ targetNamespace }) => targetNamespace))];
  const fileOf = (namespace: string) => `${FOLDER}n${namespaces.indexOf(namespace)}.xsd`;
  for (const namespace of namespaces) {
    const own = schemas.filter(({ targetNamespace }) => targetNamespace === namespace);
    const includes = own.map((schema) => {
      const name = `${FOLDER}s${schemas.indexOf(schema)}.xsd`;
      files[name] = encoder.encode(writeSchema(schema, namespaces, fileOf));
      return `<xs:include schemaLocation="${name}"/>`;
    });
    files[fileOf(namespace)] = encoder.encode(wrap(includes.join(''), namespace));
  }
  const imports = namespaces.map(
    (namespace) =>
      `<xs:import${namespace === '' ? '' : ` namespace="${escapeMarkup(namespace)}"`} schemaLocation="${fileOf(namespace)}"/>`,
  );
  const provider = new XmlBufferInputProvider(files);
  xmlRegisterInputProvider(provider);
  try {
    const main = XmlDocument.fromString(wrap(imports.join(''), namespaces.includes('') ? 'urn:all' : ''));
    try {
      return LibValidator.fromDoc(main);
    } finally {
      main.dispose();
    }
  } finally {
    xmlCleanupInputProvider();
  }
}

function wrap(content: string, namespace: string): string {
  const target = namespace === '' ? '' : ` targetNamespace="${escapeMarkup(namespace)}"`;
  return `<xs:schema xmlns:xs="${XSD}"${target}>${content}</xs:schema>`;
}

/** A schema as its own document. Its includes are made by the one of its namespace, its imports lead to those of others. */
function writeSchema(
  { node, targetNamespace }: XsdSchema,
  namespaces: readonly string[],
  fileOf: (namespace: string) => string,
): string {
  const children = node.children.map((child) => {
    if (child.namespace !== XSD) return '';
    if (child.name === 'include') return '';
    if (child.name === 'import') {
      const other = child.attributes['namespace'] ?? '';
      if (!namespaces.includes(other) || other === targetNamespace) return '';
      return `<xs:import xmlns:xs="${XSD}"${other === '' ? '' : ` namespace="${escapeMarkup(other)}"`} schemaLocation="${fileOf(other)}"/>`;
    }
    return writeNode(child);
  });
  const own = { ...node.attributes, ...(targetNamespace === '' ? {} : { targetNamespace }) };
  return `<xs:schema xmlns:xs="${XSD}"${writePrefixes(node, 'xs')}${writeAttributes(own)}>${children.join('')}</xs:schema>`;
}

function writeNode(node: XmlElement): string {
  if (node.name === 'annotation') return '';
  const content = node.children.map(writeNode).join('') + escapeMarkup(node.text);
  return `<xsd1:${node.name} xmlns:xsd1="${escapeMarkup(node.namespace)}"${writePrefixes(node, 'xsd1')}${writeAttributes(node.attributes)}>${content}</xsd1:${node.name}>`;
}

/** Values of attributes name things by these prefixes. */
function writePrefixes({ prefixes }: XmlElement, but: string): string {
  return Object.entries(prefixes)
    .filter(([prefix]) => prefix !== but && prefix !== 'xml')
    .map(([prefix, namespace]) => ` xmlns${prefix === '' ? '' : `:${prefix}`}="${escapeMarkup(namespace)}"`)
    .join('');
}

function writeAttributes(attributes: XmlElement['attributes']): string {
  return Object.entries(attributes)
    .filter(([name]) => splitName(name)[0] === '')
    .map(([name, value]) => ` ${name}="${escapeMarkup(value)}"`)
    .join('');
}
