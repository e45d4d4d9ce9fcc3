import type { Features } from './features.js';
import { keyAt, placeOrder } from './tell-apart.js';

/** A call with the answer it got, by number. */
export interface AskedRequest {
  readonly member: number;
  readonly answer: number;
  readonly features: Features;
}

/**
 * The fewest places at which calls of one path differ that were answered differently with nothing in between that could
 * have changed it.
 */
export function findAskedPlaces(
  requests: readonly AskedRequest[],
  isUsable: (place: string) => boolean,
  { isWrittenBetween }: { readonly isWrittenBetween: (member: number, later: number) => boolean },
): string[] {
  const pairs = findPairs(requests, isWrittenBetween)
    .map(([before, after]) => differingPlaces(before.features, after.features).filter(isUsable))
    .filter((places) => places.length > 0 && !places.some((place) => place.startsWith('path ')));
  const chosen: string[] = [];
  for (
    let left = pairs;
    left.length > 0;
    left = left.filter((places) => !places.some((place) => chosen.includes(place)))
  ) {
    const counts = new Map<string, number>();
    for (const place of left.flat()) counts.set(place, (counts.get(place) ?? 0) + 1);
    const [best] = [...counts].sort((a, b) => b[1] - a[1] || placeOrder(a[0]) - placeOrder(b[0]));
    if (best === undefined) break;
    chosen.push(best[0]);
  }
  return chosen;
}

/** Calls of one path, one right after the other, that were answered differently without a write in between. */
function findPairs(
  requests: readonly AskedRequest[],
  isWrittenBetween: (member: number, later: number) => boolean,
): (readonly [AskedRequest, AskedRequest])[] {
  const last = new Map<string, AskedRequest>();
  const pairs: (readonly [AskedRequest, AskedRequest])[] = [];
  for (const request of requests) {
    const paths = [...request.features.keys()].filter((place) => place.startsWith('path '));
    const key = keyAt(request.features, paths);
    const before = last.get(key);
    last.set(key, request);
    if (before === undefined || before.answer === request.answer) continue;
    if (!isWrittenBetween(before.member, request.member)) pairs.push([before, request]);
  }
  return pairs;
}

function differingPlaces(a: Features, b: Features): string[] {
  return [...new Set([...a.keys(), ...b.keys()])].filter((place) => a.get(place) !== b.get(place));
}
