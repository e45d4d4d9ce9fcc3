import type { MadeElement } from '../contract/wsdl/generate-markup.js';
import type { SoapFaultPart, SoapOperation, SoapPart } from '../contract/wsdl/read-soap-operations.js';
import { leavesOf, makePart, prefixesOf } from '../contract/wsdl/soap-sample.js';
import { writeMarkup } from '../contract/wsdl/write-markup.js';
import type { WsdlContract } from '../contract/wsdl/wsdl-contract.js';
import { ANSWER, codeOf } from '../contract/wsdl/wsdl-operation.js';
import { splitName } from '../contract/wsdl/xml-tree.js';
import { escapeTemplates } from '../expression/template.js';
import { CASE_HEADER, type ContractCase } from './contract-cases.js';
import { uniqueName } from './unique-name.js';

/** The cases of one SOAP operation: its faults, each asked for by the case header, then its answer, which is the fall-back. */
export function draftSoapCases(contract: WsdlContract, operation: SoapOperation): ContractCase[] {
  const taken = new Set<string>();
  const faults = operation.faults.map((fault) => draftFault(contract, operation, fault, uniqueName(fault.name, taken)));
  const name = uniqueName('as documented', taken);
  if (operation.isOneWay)
    return [
      ...faults,
      { from: 'nothing', code: ANSWER, definition: { case: name, answer: { status: 202, none: true } } },
    ];
  const header = operation.outputHeaders.map((part) => writePart(contract, operation, part)).join('');
  const body = operation.output === null ? '' : writePart(contract, operation, operation.output);
  const soap = header === '' ? body : { header, body };
  return [
    ...faults,
    { from: header + body === '' ? 'nothing' : 'schema', code: ANSWER, definition: { case: name, answer: { soap } } },
  ];
}

function draftFault(
  contract: WsdlContract,
  operation: SoapOperation,
  fault: SoapFaultPart,
  name: string,
): ContractCase {
  const detail = writePart(contract, operation, fault);
  const reason = sentenceOf(fault.name);
  return {
    from: detail === '' ? 'nothing' : 'schema',
    code: codeOf(fault),
    definition: {
      case: name,
      when: { [`header ${CASE_HEADER}`]: name },
      answer: { soapFault: { code: 'sender', reason, ...(detail === '' ? {} : { detail }) } },
    },
  };
}

/** `manifestUnknown` -> `Manifest unknown` */
function sentenceOf(name: string): string {
  const words = name
    .replaceAll(/([a-z])([A-Z])/g, '$1 $2')
    .replaceAll(/[-_.]+/g, ' ')
    .toLowerCase();
  return words.slice(0, 1).toUpperCase() + words.slice(1);
}

/** A part of an answer as markup: what the call says by the same name is answered as it was said. */
function writePart(contract: WsdlContract, operation: SoapOperation, part: SoapPart): string {
  const made = makePart(contract, part, operation.name);
  if (made === null) return '';
  const prefixes = prefixesOf(contract);
  const asked = askedPaths(contract, operation, prefixes);
  return writeMarkup(escapeAll(made), prefixes, (element, attribute) => {
    if (attribute !== null) return echoOfAttribute(element, attribute, asked);
    const path = asked.get(splitName(element.name)[1]);
    return path === undefined ? null : echo(path);
  });
}

function echo(path: string): string {
  return `\${xpath(call.xml, 'string(${path})')}`;
}

/** Elements of the call that hold one text, by their local names: the XPath that finds them. */
function askedPaths(
  contract: WsdlContract,
  operation: SoapOperation,
  prefixes: ReadonlyMap<string, string>,
): ReadonlyMap<string, string> {
  const made = operation.input === null ? null : makePart(contract, operation.input, operation.name);
  if (made === null) return new Map();
  const found = new Map<string, string>();
  for (const [path, { name }] of leavesOf(made)) {
    const [namespace, local] = splitName(name);
    const prefix = prefixes.get(namespace);
    if (path === '' || (namespace !== '' && prefix === undefined)) continue;
    found.set(local, `//${namespace === '' ? '' : `${prefix}:`}${local}`);
  }
  return found;
}

/** The `id` of a manifest is the `manifestId` that was asked for. */
function echoOfAttribute(element: MadeElement, name: string, asked: ReadonlyMap<string, string>): string | null {
  const path = name === 'id' ? asked.get(`${splitName(element.name)[1]}Id`) : undefined;
  return path === undefined ? null : echo(path);
}

function escapeAll(element: MadeElement): MadeElement {
  return {
    ...element,
    attributes: element.attributes.map(([name, value]) => [name, String(escapeTemplates(value))] as const),
    text: element.text === null ? null : String(escapeTemplates(element.text)),
    children: element.children.map(escapeAll),
  };
}
