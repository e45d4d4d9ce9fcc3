import type { CauseFinder } from './cause.js';
import type { CaseClass } from './classes.js';
import type { Run, Timeline, TracedSite } from './state-site.js';

/** A site that goes on by itself at first and is changed by writes later. */
export interface Phases {
  /** What goes on by itself. */
  readonly first: TracedSite;
  /** What writes make of it; all that was before stands as one answer, `before`. */
  readonly later: TracedSite;
  readonly before: CaseClass;
}

/**
 * Parts what a thing becomes by itself from what a write that names it makes of it: a job that gets done, and is removed
 * then. Null where there is no such write, where things go on by themselves after it, too, or answers stand on both sides.
 */
export function splitPhases(traced: TracedSite, causes: CauseFinder): Phases | null {
  if (traced.mode !== 'alone' || traced.keyIndex === null) return null;
  const parts = traced.timelines.map(({ key, runs }) => {
    const isNamed = (run: Run): boolean => run.cause !== null && causes.mentions(run.cause, key);
    const at = runs.findIndex((run, i) => i > 0 && isNamed(run));
    const end = at < 0 ? runs.length : at;
    return { key, own: runs.slice(0, end), later: runs.slice(end), isNamed: runs.slice(end).every(isNamed) };
  });
  const before = parts[0]?.own[0]?.answer;
  if (before === undefined || parts.every(({ later }) => later.length === 0)) return null;
  const own = new Set(parts.flatMap((part) => part.own.map(({ answer }) => answer)));
  if (parts.some((part) => !part.isNamed || part.later.some(({ answer }) => own.has(answer)))) return null;
  return {
    first: { ...traced, timelines: parts.map(({ key, own: runs }) => ({ key, runs })) },
    later: { ...traced, mode: 'keyed', timelines: parts.map((part) => joinFirst(part, before)) },
    before,
  };
}

function joinFirst(
  part: { readonly key: string; readonly own: readonly Run[]; readonly later: readonly Run[] },
  before: CaseClass,
): Timeline {
  const [first] = part.own;
  const last = part.own.at(-1);
  if (first === undefined || last === undefined) return { key: part.key, runs: part.later };
  const count = part.own.reduce((sum, run) => sum + run.count, 0);
  return {
    key: part.key,
    runs: [{ answer: before, first: first.first, last: last.last, count, cause: null }, ...part.later],
  };
}
