import type { RequestView } from '../request/request-view.js';
import type { CompiledOperation, CompiledService } from './compile-service.js';

/** Where a request leads. `other-method`: the path is known, but not with this method. */
export type Destination =
  | { readonly kind: 'operation'; readonly operation: CompiledOperation }
  | { readonly kind: 'other-method'; readonly allow: readonly string[] }
  | { readonly kind: 'none' };

const NONE: Destination = { kind: 'none' };

/** The operation of a request, its path parameters set on the request. HEAD is answered from GET unless defined. */
export function findOperation(service: CompiledService, request: RequestView): Destination {
  const match = service.trie.match(request.method, request.path);
  if (match.kind === 'found') {
    request.paramNames = match.names;
    request.paramValues = match.values;
    return { kind: 'operation', operation: match.value };
  }
  if (match.kind === 'none') return NONE;
  if (request.method === 'HEAD' && match.methods.includes('GET')) {
    const get = service.trie.match('GET', request.path);
    if (get.kind === 'found') {
      request.paramNames = get.names;
      request.paramValues = get.values;
      return { kind: 'operation', operation: get.value };
    }
  }
  return { kind: 'other-method', allow: allowOf(match.methods) };
}

/** The `Allow` of a path: its methods, HEAD where GET is, and OPTIONS, which is always answered. */
function allowOf(methods: readonly string[]): string[] {
  const all = new Set(methods);
  if (all.has('GET')) all.add('HEAD');
  all.add('OPTIONS');
  return [...all].sort();
}
