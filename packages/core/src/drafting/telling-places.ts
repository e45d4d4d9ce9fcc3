import type { Exchange } from '../traffic/exchange.js';

/** The value at each place of one request that could tell answers apart: `query port` -> `skerry`, `json $.imo` -> 9321483. */
export type PlaceValues = ReadonlyMap<string, string | number | boolean | null>;

/** The fewest places whose values decide the answer, and whether they do so completely. */
export interface TellingPlaces {
  readonly places: readonly string[];
  readonly complete: boolean;
}

/** All places of a request that a condition could look at: its query, and the scalars of a JSON body. */
export function readPlaces(exchange: Exchange): PlaceValues {
  const values = new Map<string, string | number | boolean | null>();
  for (const [name, value] of exchange.query) {
    // A name that a place cannot be written with is passed over.
    if (name === '' || name !== name.trim() || values.has(`query ${name}`)) continue;
    values.set(`query ${name}`, value);
  }
  collectJson(parseJson(exchange.requestBody), '$', values);
  return values;
}

/**
 * The fewest places that tell `answers` apart, found greedily: each step takes the place that splits most of what is
 * still mixed. `answers[i]` names the answer to the request with `requests[i]`.
 */
export function findTellingPlaces(requests: readonly PlaceValues[], answers: readonly string[]): TellingPlaces {
  const candidates = [...new Set(requests.flatMap((values) => [...values.keys()]))];
  const places: string[] = [];
  let mixed = countMixed(requests, answers, places);
  while (mixed > 0) {
    const best = candidates
      .filter((place) => !places.includes(place))
      .map((place) => ({ place, mixed: countMixed(requests, answers, [...places, place]) }))
      .sort((a, b) => a.mixed - b.mixed)[0];
    if (best === undefined || best.mixed >= mixed) break;
    places.push(best.place);
    mixed = best.mixed;
  }
  return { places, complete: mixed === 0 };
}

/** How many requests share the values at `places` with a request that was answered otherwise. */
function countMixed(requests: readonly PlaceValues[], answers: readonly string[], places: readonly string[]): number {
  const groups = new Map<string, string[]>();
  requests.forEach((values, i) => {
    const key = keyAt(values, places);
    groups.set(key, [...(groups.get(key) ?? []), answers[i] ?? '']);
  });
  return [...groups.values()].filter((group) => new Set(group).size > 1).reduce((sum, group) => sum + group.length, 0);
}

/** The values of a request at some places, as one text. */
export function keyAt(values: PlaceValues, places: readonly string[]): string {
  return JSON.stringify(places.map((place) => values.get(place) ?? null));
}

const MOST_PLACES = 60;

function collectJson(value: unknown, path: string, values: Map<string, string | number | boolean | null>): void {
  if (values.size >= MOST_PLACES) return;
  if (value === null || typeof value !== 'object') {
    if (path !== '$' && value !== undefined) values.set(`json ${path}`, value as string | number | boolean | null);
    return;
  }
  const isList = Array.isArray(value);
  for (const [key, member] of Object.entries(value)) {
    collectJson(member, `${path}${isList ? `[${key}]` : memberStep(key)}`, values);
  }
}

/** A step of a JSONPath to a member: short where the name allows it, else quoted (RFC 9535, 2.3.1.1; escapes as in JSON). */
function memberStep(name: string): string {
  if (/^[A-Za-z_]\w*$/.test(name)) return `.${name}`;
  const escaped = JSON.stringify(name).slice(1, -1).replaceAll('\\"', '"').replaceAll("'", "\\'");
  return `['${escaped}']`;
}

function parseJson(text: string | null): unknown {
  try {
    return text === null ? undefined : JSON.parse(text);
  } catch {
    return undefined;
  }
}
