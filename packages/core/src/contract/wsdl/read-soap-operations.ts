import type { SoapVersion } from '../../soap/soap-version.js';
import { WSDL, type WsdlContract } from './wsdl-contract.js';
import { childOf, childrenOf, type QName, resolveName, type XmlElement } from './xml-tree.js';

/** A part of a message that stands as an element in an envelope. */
export interface SoapPart {
  readonly element: QName;
  readonly node: XmlElement;
}

export interface SoapFaultPart extends SoapPart {
  /** The fault's name in the contract. */
  readonly name: string;
}

/** One operation of a WSDL contract at one path, whichever versions of SOAP it is bound to. */
export interface SoapOperation {
  readonly name: string;
  readonly title: string | null;
  /** Of its service's address: `/manifests`. */
  readonly path: string;
  readonly versions: readonly SoapVersion[];
  readonly action: string;
  /** Null: the body is empty. */
  readonly input: SoapPart | null;
  readonly inputHeaders: readonly SoapPart[];
  /** Null: it answers nothing but that the call came. */
  readonly output: SoapPart | null;
  readonly isOneWay: boolean;
  readonly outputHeaders: readonly SoapPart[];
  readonly faults: readonly SoapFaultPart[];
  readonly node: XmlElement;
}

const BINDINGS: Readonly<Record<SoapVersion, string>> = {
  '1.1': 'http://schemas.xmlsoap.org/wsdl/soap/',
  '1.2': 'http://schemas.xmlsoap.org/wsdl/soap12/',
};

type Report = (node: XmlElement, reason: string) => void;

/** The operations that a contract's services offer, in order; what cannot be used is told. */
export function readSoapOperations(contract: WsdlContract, report: Report): SoapOperation[] {
  const found = new Map<string, SoapOperation>();
  for (const root of contract.definitions)
    for (const service of childrenOf(root, WSDL, 'service'))
      for (const port of childrenOf(service, WSDL, 'port'))
        for (const operation of readPort(contract, port, report)) {
          const key = `${operation.path} ${operation.name}`;
          const known = found.get(key);
          found.set(
            key,
            known === undefined
              ? operation
              : { ...known, versions: [...new Set([...known.versions, ...operation.versions])] },
          );
        }
  return [...found.values()];
}

function readPort(contract: WsdlContract, port: XmlElement, report: Report): SoapOperation[] {
  const version = versionOf(port, 'address');
  if (version === null) {
    report(port, 'only ports of SOAP 1.1 and 1.2 are used');
    return [];
  }
  const location = childOf(port, BINDINGS[version], 'address')?.attributes['location'] ?? '';
  const binding = contract.find('binding', resolveName(port.attributes['binding'] ?? '', port));
  if (binding === null) {
    report(port, `there is no binding ${port.attributes['binding'] ?? ''}`);
    return [];
  }
  const style = childOf(binding, BINDINGS[version], 'binding')?.attributes['style'] ?? 'document';
  return childrenOf(binding, WSDL, 'operation').flatMap(
    (node) => readOperation({ contract, version, style, path: pathOf(location), binding, report }, node) ?? [],
  );
}

function versionOf(node: XmlElement, name: string): SoapVersion | null {
  if (childOf(node, BINDINGS['1.1'], name) !== null) return '1.1';
  return childOf(node, BINDINGS['1.2'], name) === null ? null : '1.2';
}

function pathOf(location: string): string {
  return URL.canParse(location) ? new URL(location).pathname : '/';
}

interface Around {
  readonly contract: WsdlContract;
  readonly version: SoapVersion;
  readonly style: string;
  readonly path: string;
  readonly binding: XmlElement;
  readonly report: Report;
}

function readOperation(around: Around, bound: XmlElement): SoapOperation | null {
  const { contract, version, binding, path, report } = around;
  const name = bound.attributes['name'] ?? '';
  const portType = contract.find('portType', resolveName(binding.attributes['type'] ?? '', binding));
  const node = childrenOf(portType, WSDL, 'operation').find((own) => own.attributes['name'] === name);
  if (node === undefined) {
    report(bound, 'its port type has no such operation');
    return null;
  }
  const own = childOf(bound, BINDINGS[version], 'operation');
  if ((own?.attributes['style'] ?? around.style) === 'rpc') {
    report(bound, 'operations of the style rpc are not used: document is');
    return null;
  }
  const [input, output] = (['input', 'output'] as const).map((side) => readSide(around, node, bound, side));
  if (input === null || output === null) return null;
  return {
    name,
    title: childOf(node, WSDL, 'documentation')?.text || null,
    path,
    versions: [version],
    action: own?.attributes['soapAction'] ?? '',
    input: input?.body ?? null,
    inputHeaders: input?.headers ?? [],
    output: output?.body ?? null,
    isOneWay: childOf(node, WSDL, 'output') === null,
    outputHeaders: output?.headers ?? [],
    faults: readFaults(around, node),
    node,
  };
}

interface Side {
  readonly body: SoapPart | null;
  readonly headers: readonly SoapPart[];
}

/** Null: it cannot be used, which was told. */
function readSide(around: Around, node: XmlElement, bound: XmlElement, side: 'input' | 'output'): Side | null {
  const { contract, version, report } = around;
  const own = childOf(node, WSDL, side);
  const boundSide = childOf(bound, WSDL, side);
  if (own === null) return { body: null, headers: [] };
  const headers = childrenOf(boundSide, BINDINGS[version], 'header').flatMap((header) => {
    const message = contract.find('message', resolveName(header.attributes['message'] ?? '', header));
    return partsOf(message).filter(({ node: part }) => part.attributes['name'] === header.attributes['part']);
  });
  const message = contract.find('message', resolveName(own.attributes['message'] ?? '', own));
  if (message === null) {
    report(own, `there is no message ${own.attributes['message'] ?? ''}`);
    return null;
  }
  const body = childOf(boundSide, BINDINGS[version], 'body');
  const listed = body?.attributes['parts']?.split(/\s+/);
  if (body?.attributes['use'] === 'encoded') {
    report(body, 'encoded bodies are not used: literal ones are');
    return null;
  }
  const typed = childrenOf(message, WSDL, 'part').find((part) => part.attributes['type'] !== undefined);
  if (typed !== undefined) {
    report(typed, 'a part of a document has an element, not a type');
    return null;
  }
  const body1 = partsOf(message).filter(
    ({ node: part }) =>
      listed?.includes(part.attributes['name'] ?? '') ?? !headers.some((header) => header.node === part),
  );
  return { body: body1[0] ?? null, headers };
}

function partsOf(message: XmlElement | null): SoapPart[] {
  return childrenOf(message, WSDL, 'part').flatMap((node) => {
    const element = node.attributes['element'];
    return element === undefined ? [] : [{ element: resolveName(element, node), node }];
  });
}

function readFaults({ contract }: Around, node: XmlElement): SoapFaultPart[] {
  return childrenOf(node, WSDL, 'fault').flatMap((fault) => {
    const message = contract.find('message', resolveName(fault.attributes['message'] ?? '', fault));
    const [part] = partsOf(message);
    return part === undefined ? [] : [{ ...part, name: fault.attributes['name'] ?? 'fault', node: fault }];
  });
}
