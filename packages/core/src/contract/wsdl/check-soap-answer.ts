import type { RenderedAnswer } from '../../answer/rendered-answer.js';
import { type ReadEnvelope, readEnvelope } from '../../soap/read-envelope.js';
import { ENVELOPE_NAMESPACES } from '../../soap/soap-version.js';
import { parseXml } from '../../xml/parse-xml.js';
import type { SchemaFinding } from '../keeping/schema-validator.js';
import { findDeclaration } from './find-declaration.js';
import type { SoapOperation } from './read-soap-operations.js';
import type { WsdlContract } from './wsdl-contract.js';
import { qualify } from './xml-tree.js';
import type { XsdValidator } from './xsd-validator.js';

/** What an answer of a SOAP operation is. */
export type SoapAnswerKind =
  | { readonly kind: 'empty' }
  | { readonly kind: 'broken'; readonly reason: string }
  | { readonly kind: 'answer'; readonly element: string | null }
  /** `elements`: what stands in its detail. */
  | { readonly kind: 'fault'; readonly elements: readonly string[] };

export function readSoapAnswer({ body }: RenderedAnswer): SoapAnswerKind {
  const text = textOf(body);
  if (text.trim() === '') return { kind: 'empty' };
  const envelope: ReadEnvelope = readEnvelope(parseXml(text));
  if (envelope.kind === 'broken') return { kind: 'broken', reason: envelope.reason };
  const { content, version } = envelope;
  if (content === null) return { kind: 'answer', element: null };
  if (content.localName !== 'Fault' || content.namespaceURI !== ENVELOPE_NAMESPACES[version])
    return { kind: 'answer', element: qualify(content.namespaceURI ?? '', content.localName) };
  const detail = content.children.find(({ localName }) => localName.toLowerCase() === 'detail');
  const elements = (detail?.children ?? []).map((own) => qualify(own.namespaceURI ?? '', own.localName));
  return { kind: 'fault', elements };
}

export function textOf(body: RenderedAnswer['body']): string {
  return body === null || typeof body === 'string' ? (body ?? '') : new TextDecoder().decode(body);
}

const SERVER_ERROR = 500;

/** How an answer differs from what the contract says of its operation. Any fault may be answered; what its detail holds has to fit. */
export function checkSoapAnswer(
  contract: WsdlContract,
  operation: SoapOperation,
  answer: RenderedAnswer,
  validator: XsdValidator,
): readonly SchemaFinding[] {
  const rule = contract.describe(operation.node);
  const read = readSoapAnswer(answer);
  const wanted = operation.output?.element ?? null;
  if (read.kind === 'empty')
    return operation.isOneWay || answer.status >= SERVER_ERROR
      ? []
      : [{ at: 'body', message: `is empty; an envelope with ${wanted ?? 'an empty body'} is expected`, rule }];
  if (read.kind === 'broken') return [{ at: 'body', message: read.reason, rule }];
  if (read.kind === 'answer' && read.element !== wanted)
    return [
      { at: 'body', message: `has ${read.element ?? 'nothing'}; the contract answers ${wanted ?? 'nothing'}`, rule },
    ];
  const root = read.kind === 'answer' ? wanted : (read.elements[0] ?? null);
  const findings =
    read.kind === 'answer' ? validator.checkEnvelope(textOf(answer.body)) : validator.checkFault(textOf(answer.body));
  return (findings ?? []).map(({ at, message }) => {
    const declared = root === null ? null : findDeclaration(contract.schemas, root, at);
    return { at: `xml ${at}`, message, rule: declared === null ? rule : contract.describe(declared) };
  });
}
