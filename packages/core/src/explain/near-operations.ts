import type { CompiledOperation, CompiledService } from '../matching/compile-service.js';
import { isMeant } from '../matching/find-operation.js';
import { matchMixedSegment } from '../matching/mixed-segment.js';
import { decodeSegment, type TemplateSegment } from '../matching/path-template.js';
import type { RequestView } from '../request/request-view.js';
import { describeContent, isCallOf } from '../soap/soap-address.js';
import { explainCondition } from './explain-condition.js';
import type { ExplainedOperation } from './explanation.js';

const MOST_NEAR = 3;

/** The operations whose method and path differ least from the request's, nearest first. */
export function nearOperations(service: CompiledService, request: RequestView): ExplainedOperation[] {
  const segments = request.path.slice(1).split('/').map(decodeSegment);
  return service.operations
    .map((operation) => ({ operation, distance: distanceTo(operation, request, segments) }))
    .sort((a, b) => a.distance - b.distance)
    .slice(0, MOST_NEAR)
    .map(({ operation }) => explainAddress(service, operation, request, segments));
}

function distanceTo(operation: CompiledOperation, request: RequestView, segments: readonly string[]): number {
  const methodDiffers = sameMethod(operation, request.method) ? 0 : 0.5;
  const bodyDiffers = isMeant(operation, request) ? 0 : 0.25;
  return methodDiffers + bodyDiffers + pathDistance(operation.address.segments, segments);
}

/** Segments that differ (a part of one where they are alike) and segments that are missing or too many. */
function pathDistance(template: readonly TemplateSegment[], segments: readonly string[]): number {
  let distance = 0;
  for (const [i, wanted] of template.entries()) {
    if (wanted.kind === 'tail') return distance;
    const segment = segments[i];
    if (segment === undefined || segment === '') distance += 1;
    else if (wanted.kind === 'mixed') distance += matchMixedSegment(wanted, segment) === null ? 0.5 : 0;
    else if (wanted.kind === 'literal' && wanted.text !== segment) distance += isAlike(wanted.text, segment) ? 0.5 : 1;
  }
  return distance + Math.max(0, segments.length - template.length);
}

function isAlike(a: string, b: string): boolean {
  return (
    a.toLowerCase().slice(0, 3) === b.toLowerCase().slice(0, 3) || a.toLowerCase().endsWith(b.toLowerCase().slice(-3))
  );
}

function sameMethod(operation: CompiledOperation, method: string): boolean {
  return (
    operation.address.method === '*' ||
    operation.address.method === method ||
    (method === 'HEAD' && operation.address.method === 'GET')
  );
}

function explainAddress(
  service: CompiledService,
  operation: CompiledOperation,
  request: RequestView,
  segments: readonly string[],
): ExplainedOperation {
  const methodHeld = sameMethod(operation, request.method);
  const pathHeld = pathDistance(operation.address.segments, segments) === 0;
  return {
    operation: operation.name,
    on: operation.on,
    reached: false,
    address: [
      { place: 'method', wanted: operation.address.method, found: request.method, held: methodHeld },
      { place: 'path', wanted: operation.address.template, found: request.path, held: pathHeld },
      ...explainSoap(operation, request),
      ...(operation.told ?? []).map((condition) => explainCondition(condition, request, service.secrets)),
    ],
    cases: [],
  };
}

function explainSoap({ address: { soap } }: CompiledOperation, request: RequestView): ExplainedOperation['address'] {
  if (soap === null) return [];
  const { namespace, element, action } = soap;
  const wanted = namespace === null ? element : `{${namespace}}${element}`;
  return [
    {
      place: 'soap body',
      wanted: action === null ? wanted : `${wanted}, action ${action}`,
      found: describeContent(request),
      held: isCallOf(soap, request),
    },
  ];
}
