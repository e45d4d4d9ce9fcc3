import type { RequestView } from '../request/request-view.js';
import { isCallOf } from '../soap/soap-address.js';
import type { CompiledOperation, CompiledService } from './compile-service.js';
import type { TrieMatch } from './segment-trie.js';

/**
 * Where a request leads. `shared`: to one of several operations, by a body that was not read yet, or to none of them.
 * `other-method`: the path is known, but not with this method.
 */
export type Destination =
  | { readonly kind: 'operation'; readonly operation: CompiledOperation }
  | { readonly kind: 'shared'; readonly operations: readonly CompiledOperation[] }
  | { readonly kind: 'other-method'; readonly allow: readonly string[] }
  | { readonly kind: 'none' };

const NONE: Destination = { kind: 'none' };

/**
 * The operation of a request, its path parameters set on the request. HEAD is answered from GET unless defined.
 * `isWhole` false: the body is still to come, and is not looked at.
 */
export function findOperation(service: CompiledService, request: RequestView, isWhole = true): Destination {
  const match = matchPath(service, request.method, request);
  if (match.kind === 'found') return leadOn(match, request, isWhole);
  if (match.kind === 'none') return NONE;
  if (request.method === 'HEAD' && match.methods.includes('GET')) {
    const get = matchPath(service, 'GET', request);
    if (get.kind === 'found') return leadOn(get, request, isWhole);
  }
  return { kind: 'other-method', allow: allowOf(match.methods) };
}

type Found = Extract<TrieMatch<readonly CompiledOperation[]>, { kind: 'found' }>;

function leadOn({ names, values, value }: Found, request: RequestView, isWhole: boolean): Destination {
  request.paramNames = names;
  request.paramValues = values;
  const [only] = value;
  return value.length === 1 && only?.address.soap === null && only.told === null
    ? { kind: 'operation', operation: only }
    : chooseShared(value, isWhole ? request : null);
}

/** What a path leads to, by a method; where a slash at its end does not count, it is left out. */
export function matchPath(
  { trie, isLoose }: CompiledService,
  method: string,
  { path }: RequestView,
): TrieMatch<readonly CompiledOperation[]> {
  return trie.match(method, isLoose && path.length > 1 && path.endsWith('/') ? path.slice(0, -1) : path);
}

/** Operations that share method and path are tried in file order; one without a condition of its own takes what is left. */
function chooseShared(operations: readonly CompiledOperation[], request: RequestView | null): Destination {
  if (request === null) return { kind: 'shared', operations };
  const operation = operations.find((own) => isMeant(own, request));
  return operation === undefined ? { kind: 'shared', operations } : { kind: 'operation', operation };
}

/** Whether a call is one of this operation, beside its method and path. */
export function isMeant({ address: { soap }, told }: CompiledOperation, request: RequestView): boolean {
  if (soap !== null && !isCallOf(soap, request)) return false;
  return told === null || told.every((condition) => condition.test(request, null));
}

/** The `Allow` of a path: its methods, HEAD where GET is, and OPTIONS, which is always answered. */
function allowOf(methods: readonly string[]): string[] {
  const all = new Set(methods);
  if (all.has('GET')) all.add('HEAD');
  all.add('OPTIONS');
  return [...all].sort();
}
