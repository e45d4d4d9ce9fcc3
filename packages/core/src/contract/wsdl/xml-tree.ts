import { XmlElement as LibElement, XmlCData, XmlDocument, XmlLibError, XmlText } from 'libxml2-wasm';
import { AppError } from '../../errors/app-error.js';

/** An element of a document, with its line; attributes by their names, those of a namespace as `{namespace}name`. */
export interface XmlElement {
  readonly name: string;
  readonly namespace: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: readonly XmlElement[];
  /** What stands directly in it, white space around it taken away. */
  readonly text: string;
  readonly line: number;
  /** Prefix -> namespace, as they are in force here. */
  readonly prefixes: Readonly<Record<string, string>>;
  /** The absolute URL of its document. */
  readonly document: string;
}

/** A name with its namespace: `{urn:skerry:manifests}vessel`, or `vessel` in none. */
export type QName = string;

/** Reads a document of a contract as plain values. Fails with `file-refused`. */
export function readXmlTree(text: string, address: string): XmlElement {
  if (text.includes('<!DOCTYPE')) throw refuse('document types are not read', 1, 1);
  const blank = text.length - text.trimStart().length;
  const linesBefore = text.slice(0, blank).split('\n').length - 1;
  let document: XmlDocument;
  try {
    document = XmlDocument.fromString(text.slice(blank));
  } catch (error) {
    const [detail] = error instanceof XmlLibError ? error.details : [];
    throw refuse(
      (detail?.message ?? (error as Error).message).trim(),
      (detail?.line ?? 1) + linesBefore,
      detail?.col ?? 1,
    );
  }
  try {
    return toTree(document.root, address, {}, linesBefore);
  } finally {
    document.dispose();
  }
}

function refuse(message: string, line: number, column: number): AppError {
  const problems = [{ message, path: '', line, column }];
  return new AppError('file-refused', 'the document cannot be read', { problems });
}

function toTree(element: LibElement, document: string, above: XmlElement['prefixes'], linesBefore: number): XmlElement {
  const own = element.localNamespaces;
  const prefixes = Object.keys(own).length === 0 ? above : { ...above, ...own };
  const children: XmlElement[] = [];
  let text = '';
  for (let node = element.firstChild; node !== null; node = node.next) {
    if (node instanceof LibElement) children.push(toTree(node, document, prefixes, linesBefore));
    else if (node instanceof XmlText || node instanceof XmlCData) text += node.content;
  }
  return {
    name: element.name,
    namespace: element.namespaceUri,
    attributes: Object.fromEntries(
      element.attrs.map((own) => [qualify(own.namespaceUri, own.name), own.value] as const),
    ),
    children,
    text: text.trim(),
    line: element.line + linesBefore,
    prefixes,
    document,
  };
}

export function qualify(namespace: string, name: string): QName {
  return namespace === '' ? name : `{${namespace}}${name}`;
}

/** The namespace and the local name of a qualified name. */
export function splitName(name: QName): readonly [namespace: string, local: string] {
  const end = name.startsWith('{') ? name.indexOf('}') : -1;
  return end < 0 ? ['', name] : [name.slice(1, end), name.slice(end + 1)];
}

/** A value such as `m:vessel` by the prefixes in force at its element; without a prefix it is in the default namespace. */
export function resolveName(value: string, { prefixes }: XmlElement): QName {
  const colon = value.indexOf(':');
  const prefix = colon < 0 ? '' : value.slice(0, colon);
  return qualify(prefixes[prefix] ?? '', value.slice(colon + 1));
}

export function childrenOf(element: XmlElement | null, namespace: string, name: string): readonly XmlElement[] {
  return element === null
    ? []
    : element.children.filter((child) => child.name === name && child.namespace === namespace);
}

export function childOf(element: XmlElement | null, namespace: string, name: string): XmlElement | null {
  return childrenOf(element, namespace, name)[0] ?? null;
}
