import type { RequestView } from '../../request/request-view.js';
import { type Contract, childOf } from '../contract.js';
import type { ContractOperation, SecurityScheme } from '../contract-operation.js';
import type { CallFinding } from './call-finding.js';
import { compileBodyCheck } from './check-body.js';
import { type AddFindings, compileParameterChecks } from './check-parameters.js';
import { bareType, isInRange } from './media-type.js';
import type { SchemaValidator } from './schema-validator.js';

const UNAUTHORIZED = 401;
const NOT_ACCEPTABLE = 406;

/** How a call is held against one operation of a contract; null: as it says. */
export type CheckCall = (request: RequestView, pathTexts: readonly string[]) => readonly CallFinding[] | null;

/** Parameters, credentials, body and what the caller accepts, as closures made once. */
export function compileCallCheck(
  contract: Contract,
  operation: ContractOperation,
  validator: SchemaValidator,
): CheckCall {
  const checks = [
    compileSecurity(contract, operation),
    ...compileParameterChecks(contract, operation, validator),
    operation.body === null ? null : compileBodyCheck(contract, operation.body, validator),
    compileAccept(contract, operation),
  ].filter((check) => check !== null);
  return (request, pathTexts) => {
    const findings: CallFinding[] = [];
    for (const check of checks) check(request, pathTexts, findings);
    return findings.length === 0 ? null : findings;
  };
}

/** One of the alternatives has to be there with all its schemes. */
function compileSecurity(contract: Contract, { security, node }: ContractOperation): AddFindings | null {
  if (security.length === 0) return null;
  const rule = childOf(node, 'security') ?? childOf(contract.root(), 'security') ?? node;
  const wanted = security.map((schemes) => schemes.map(({ place }) => place ?? 'a certificate').join(' and '));
  const places = [...new Set(wanted)].join(', or ');
  return (request, _pathTexts, into) => {
    if (security.some((schemes) => schemes.every((scheme) => isMet(scheme, request)))) return;
    const scheme = security[0]?.find((own) => !isMet(own, request));
    into.push({
      in: 'call',
      at: scheme?.place ?? 'credentials',
      message: describeMissing(scheme, request, places),
      rule: contract.describe(rule),
      refusal: UNAUTHORIZED,
    });
  };
}

function describeMissing(scheme: SecurityScheme | undefined, request: RequestView, places: string): string {
  const isThere = scheme !== undefined && isMet({ place: scheme.place, prefix: null }, request);
  const kind = scheme?.prefix?.trim() ?? '';
  return isThere
    ? `is no ${kind} credential`
    : `the call has no credentials (${places}${kind === '' ? '' : `, ${kind}`})`;
}

function isMet({ place, prefix }: SecurityScheme, request: RequestView): boolean {
  if (place === null) return true;
  const [kind = '', name = ''] = place.split(' ');
  const sent =
    kind === 'header' ? request.header(name) : kind === 'query' ? request.query(name) : request.cookies()[name];
  if (sent === undefined || sent === '') return false;
  return prefix === null || String(sent).toLowerCase().startsWith(prefix);
}

/** Callers that accept none of the media types of a success get none. */
function compileAccept(contract: Contract, operation: ContractOperation): AddFindings | null {
  const media = operation.responses.filter(({ code }) => code.startsWith('2')).flatMap((response) => response.media);
  if (media.length === 0) return null;
  const types = [...new Set(media.map(({ type }) => bareType(type)))];
  return (request, _pathTexts, into) => {
    const accept = request.header('accept');
    if (accept === undefined || accept === '*/*' || accept === types[0]) return;
    const ranges = accept.split(',').filter((range) => !/;\s*q=0(\.0*)?\s*$/i.test(range));
    if (ranges.some((range) => types.some((type) => isInRange(range, type) || isInRange(type, bareType(range)))))
      return;
    into.push({
      in: 'call',
      at: 'header accept',
      message: `${accept} has none of what the contract answers with: ${types.join(', ')}`,
      rule: contract.describe(operation.node),
      refusal: NOT_ACCEPTABLE,
    });
  };
}
