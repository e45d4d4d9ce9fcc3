import type { Comparison } from '../definition/comparison.js';

/** What a text is known to begin with, to end with, and to contain. */
interface KnownParts {
  readonly starts: readonly string[];
  readonly ends: readonly string[];
  readonly has: readonly string[];
}

const TESTS = new Set(['starts', 'ends', 'has', 'like', 'caseless']);

/** Whether texts that are as `a` says are as `b` says, by what they begin, end and contain. False where it cannot be told. */
export function impliesByParts(a: Comparison, b: Comparison): boolean {
  if (Object.keys(b).some((key) => !TESTS.has(key)) || (a.caseless === true) !== (b.caseless === true)) return false;
  if (b.has !== undefined && typeof b.has !== 'string') return false;
  const known = partsOf(a);
  const wanted = partsOf(b);
  if (b.like !== undefined && a.like !== b.like && !isPlainLike(b.like)) return false;
  return (
    wanted.starts.every((text) => known.starts.some((own) => own.startsWith(text))) &&
    wanted.ends.every((text) => known.ends.some((own) => own.endsWith(text))) &&
    wanted.has.every((text) => [...known.starts, ...known.ends, ...known.has].some((own) => own.includes(text)))
  );
}

function partsOf({ starts, ends, has, like, caseless }: Comparison): KnownParts {
  const fold = (text: string): string => (caseless === true ? text.toLowerCase() : text);
  const pieces = like === undefined ? [] : like.split(/[*?]+/);
  const texts = (...all: readonly unknown[]) =>
    all.filter((text): text is string => typeof text === 'string' && text !== '').map(fold);
  return {
    starts: texts(starts, pieces[0]),
    ends: texts(ends, pieces.at(-1)),
    has: texts(has, ...pieces.slice(1, -1)),
  };
}

/** `N*`, `*7`, `*err*`, `*`: what begins, ends or contains says all of it. */
function isPlainLike(pattern: string): boolean {
  return /^[^*?]*\*$|^\*[^*?]*\*?$/.test(pattern);
}
