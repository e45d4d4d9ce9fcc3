import type { CompiledOperation, CompiledService } from '../matching/compile-service.js';
import type { TemplateSegment } from '../matching/path-template.js';

/** Two operations that take the same path, each by what it writes down where the other has a parameter. */
export interface Overlap {
  readonly operations: readonly [string, string];
  /** A path that both take: `/berths/free/bookings`. */
  readonly example: string;
  /** Which of them gets it: the one whose literal comes first. */
  readonly winner: string;
}

const MOST_OVERLAPS = 20;
const MOST_OPERATIONS = 1_000;

/** Overlaps that people stumble over: `/berths/{id}/free` and `/berths/all/{what}` at `/berths/all/free`. A literal beside a parameter is none. */
export function findOverlaps({ operations }: CompiledService): Overlap[] {
  const overlaps: Overlap[] = [];
  const looked = operations
    .slice(0, MOST_OPERATIONS)
    .filter(({ address, told }) => address.soap === null && told === null);
  for (const [i, a] of looked.entries()) {
    for (const b of looked.slice(i + 1)) {
      if (overlaps.length >= MOST_OVERLAPS) return overlaps;
      const overlap = compare(a, b);
      if (overlap !== null) overlaps.push(overlap);
    }
  }
  return overlaps;
}

function compare(a: CompiledOperation, b: CompiledOperation): Overlap | null {
  const [mine, other] = [a.address, b.address];
  if (mine.method !== other.method || mine.segments.length !== other.segments.length) return null;
  let first: 'a' | 'b' | null = null;
  const seen = new Set<'a' | 'b'>();
  const example: string[] = [];
  for (const [i, own] of mine.segments.entries()) {
    const beside = other.segments[i] as TemplateSegment;
    const text = shared(own, beside);
    if (text === null) return null;
    example.push(encodeURIComponent(text));
    const literal = own.kind === beside.kind ? null : own.kind === 'literal' ? 'a' : 'b';
    if (literal === null) continue;
    first ??= literal;
    seen.add(literal);
  }
  if (seen.size < 2) return null;
  const winner = first === 'a' ? a.name : b.name;
  return { operations: [a.name, b.name], example: `/${example.join('/')}`, winner };
}

/** A text that both segments take; null: there is none, or it cannot be told. */
function shared(a: TemplateSegment, b: TemplateSegment): string | null {
  if (a.kind === 'literal')
    return b.kind === 'literal' ? (a.text === b.text ? a.text : null) : b.kind === 'parameter' ? a.text : null;
  if (b.kind === 'literal') return a.kind === 'parameter' ? b.text : null;
  return a.kind === 'parameter' && b.kind === 'parameter' ? 'x' : null;
}
