import { explainCall } from '../explain/explain-call.js';
import type { FoundValue } from '../explain/found-value.js';
import type { CompiledOperation, CompiledService } from '../matching/compile-service.js';
import { ABSENT, parsePlace } from '../matching/place.js';
import type { RequestView } from '../request/request-view.js';
import { isSecretPlace } from '../traffic/mask.js';

/** Conditions as they stand in a file: place -> value. */
export type Conditions = Readonly<Record<string, string | number | boolean>>;

/**
 * The fewest conditions by which a call is told from those that other cases of its operation take: what the closest case
 * asked and did not find; else what the path names; else the query, or the members of the body.
 */
export function fewestConditions(
  service: CompiledService,
  operation: CompiledOperation,
  request: RequestView,
  found: readonly FoundValue[] | null,
): Conditions {
  const read = (place: string) => readPlace(place, operation, service, request);
  const failed = failedPlaces(service, request, found);
  if (failed !== null) {
    const own = pairs(failed, read);
    if (own.length > 0) return Object.fromEntries(own);
  }
  for (const places of [
    operation.address.names.map((name) => `path ${name}`),
    Object.keys(request.queries()).map((name) => `query ${name}`),
    membersOf(request.json()).map((name) => `json $.${name}`),
    Object.keys(request.form()).map((name) => `form ${name}`),
  ]) {
    const own = pairs(places, read);
    if (own.length > 0) return Object.fromEntries(own);
  }
  return {};
}

type Pair = readonly [string, string | number | boolean];

function pairs(places: readonly string[], read: (place: string) => string | number | boolean | null): Pair[] {
  return places.flatMap((place) => {
    const value = read(place);
    return value === null ? [] : [[place, value] as const];
  });
}

/** Places of the closest case whose conditions did not hold; null: a case answered, or there is none. */
function failedPlaces(
  service: CompiledService,
  request: RequestView,
  found: readonly FoundValue[] | null,
): readonly string[] | null {
  const [reached] = explainCall(service, request, found).ladder;
  const cases = reached?.reached === true ? reached.cases : [];
  if (cases.some(({ outcome }) => outcome === 'answered')) return null;
  const ranked = cases
    .map(({ conditions }) => conditions.filter(({ held }) => !held).map(({ place }) => place))
    .sort((a, b) => a.length - b.length);
  return ranked[0] ?? null;
}

/** What a call has at a place, where it is one short value that may be written down; null: it is not. */
function readPlace(
  text: string,
  { address }: CompiledOperation,
  { definition, secrets }: CompiledService,
  request: RequestView,
): string | number | boolean | null {
  const parsed = parsePlace(text, { path: address.names, text: null, namespaces: definition.namespaces ?? {}, at: [] });
  if (parsed.kind === 'refused' || parsed.place.needsFrame || isSecretPlace(parsed.place, secrets)) return null;
  const value = parsed.place.read(request, null);
  if (value === ABSENT) return null;
  if (typeof value === 'number' || typeof value === 'boolean') return value;
  return typeof value === 'string' && value.length <= LONGEST_VALUE ? value : null;
}

const LONGEST_VALUE = 200;

function membersOf(json: unknown): readonly string[] {
  if (json === null || typeof json !== 'object' || Array.isArray(json)) return [];
  const simple = Object.entries(json).filter(
    ([name, value]) => /^[A-Za-z_]\w*$/.test(name) && typeof value !== 'object',
  );
  return simple.slice(0, 1).map(([name]) => name);
}
