import type { RequestView } from '../../request/request-view.js';
import type { CallFinding } from '../keeping/call-finding.js';
import type { CheckCall } from '../keeping/compile-call-check.js';
import { findDeclaration } from './find-declaration.js';
import type { SoapOperation } from './read-soap-operations.js';
import type { WsdlContract } from './wsdl-contract.js';
import { type QName, qualify } from './xml-tree.js';
import type { XsdValidator } from './xsd-validator.js';

const BAD_REQUEST = 400;
const UNSUPPORTED = 415;
const TYPES = { '1.1': /^text\/xml\b/i, '1.2': /^application\/soap\+xml\b/i } as const;
const TYPE_NAMES = { '1.1': 'text/xml', '1.2': 'application/soap+xml' } as const;

/** How calls of one SOAP operation are held against its contract: type, version, action, headers, and the schemas of the body. */
export function compileSoapCallCheck(
  contract: WsdlContract,
  operation: SoapOperation,
  validator: XsdValidator,
): CheckCall {
  const rule = contract.describe(operation.node);
  const finding = (at: string, message: string, refusal: number | null): CallFinding => ({
    in: 'call',
    at,
    message,
    rule,
    refusal,
  });
  return (request) => {
    const envelope = request.envelope();
    if (envelope.kind === 'broken') return [finding('body', envelope.reason, BAD_REQUEST)];
    const { version, header, content } = envelope;
    const findings: CallFinding[] = [];
    const type = request.header('content-type') ?? '';
    if (!TYPES[version].test(type))
      findings.push(
        finding(
          'header content-type',
          `is ${type === '' ? 'missing' : type}; an envelope of SOAP ${version} is ${TYPE_NAMES[version]}`,
          UNSUPPORTED,
        ),
      );
    if (!operation.versions.includes(version))
      findings.push(
        finding(
          'body',
          `an envelope of SOAP ${version}; it is bound to ${operation.versions.join(' and ')}`,
          BAD_REQUEST,
        ),
      );
    // In 1.2 the action is an option of the caller's (RFC 3902).
    const action = request.soapAction();
    const isMissing = action === '' && version === '1.1' && request.header('soapaction') === undefined;
    if (operation.action !== '' && (isMissing || (action !== '' && action !== operation.action)))
      findings.push(
        finding(
          'header soapaction',
          `is ${action === '' ? 'missing' : action}; it is ${operation.action}`,
          BAD_REQUEST,
        ),
      );
    for (const part of operation.inputHeaders)
      if (!header?.children.some((own) => qualify(own.namespaceURI ?? '', own.localName) === part.element))
        findings.push(finding('xml header', `has no ${part.element}`, null));
    const root = content === null ? null : qualify(content.namespaceURI ?? '', content.localName);
    findings.push(...checkBody(contract, validator, request, operation.input?.element ?? root, rule));
    return findings.length === 0 ? null : findings;
  };
}

function checkBody(
  contract: WsdlContract,
  validator: XsdValidator,
  request: RequestView,
  root: QName | null,
  rule: string,
): CallFinding[] {
  return (validator.checkEnvelope(request.text()) ?? []).map(({ at, message }) => {
    const declared = root === null ? null : findDeclaration(contract.schemas, root, at);
    return {
      in: 'call',
      at: `xml ${at}`,
      message,
      rule: declared === null ? rule : contract.describe(declared),
      refusal: BAD_REQUEST,
    };
  });
}
