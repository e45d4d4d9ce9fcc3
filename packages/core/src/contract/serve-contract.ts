import type { RenderedAnswer } from '../answer/rendered-answer.js';
import type { CompiledService } from '../matching/compile-service.js';
import { matchPath } from '../matching/find-operation.js';
import type { RequestView } from '../request/request-view.js';
import { renderWsdl } from './wsdl/serve-wsdl.js';
import { WsdlIndex } from './wsdl/wsdl-index.js';

/** The contract's own document, for callers of SOAP that ask for it (`/manifests?wsdl`); null: none was asked for, or there is none. */
export function serveContract(service: CompiledService, request: RequestView): RenderedAnswer | null {
  const index = service.contract?.index;
  if (!(index instanceof WsdlIndex) || (request.method !== 'GET' && request.method !== 'HEAD')) return null;
  const [, name] = Object.entries(request.queries()).find(([key]) => key.toLowerCase() === 'wsdl') ?? [];
  if (name === undefined) return null;
  const match = matchPath(service, 'POST', request);
  if (match.kind !== 'found' || !match.value.some(({ address }) => address.soap !== null)) return null;
  const text = renderWsdl(index.contract, String(name), `${request.origin()}${request.path}`);
  return text === null ? null : { status: 200, headers: ['content-type', 'text/xml; charset=utf-8'], body: text };
}
