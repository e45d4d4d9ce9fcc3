import { z } from 'zod';
import { type TriedStep, trialDifferenceSchema } from './trial-result.js';

/** What became of one step since the trial before. */
export const trialChangeSchema = z.object({
  operation: z.string(),
  name: z.string(),
  /** `began` to differ, `ended` to; `changed`: it differs otherwise; `new`, `gone`: it was tried in one of the two only. */
  what: z.enum(['began', 'changed', 'ended', 'new', 'gone']),
  /** How it differs now; where it differs no more, how it did. */
  differences: z.array(trialDifferenceSchema),
});
export type TrialChange = z.output<typeof trialChangeSchema>;

/** What changed from one trial to the next: what differs now, and did not, and the other way round. */
export function listTrialChanges(before: readonly TriedStep[], now: readonly TriedStep[]): TrialChange[] {
  const earlier = new Map(before.filter(wasTried).map((step) => [keyOf(step), step]));
  const later = new Map(now.filter(wasTried).map((step) => [keyOf(step), step]));
  const changes: TrialChange[] = [];
  for (const [key, step] of later) {
    const old = earlier.get(key);
    const what = old === undefined ? 'new' : whatOf(old, step);
    if (what !== null) changes.push(changeOf(step, what, what === 'ended' ? (old as TriedStep) : step));
  }
  for (const [key, step] of earlier) if (!later.has(key)) changes.push(changeOf(step, 'gone', step));
  return changes;
}

function whatOf(old: TriedStep, now: TriedStep): 'began' | 'changed' | 'ended' | null {
  const [differed, differs] = [old.outcome === 'differs', now.outcome === 'differs'];
  if (differed !== differs) return differs ? 'began' : 'ended';
  return differs && signOf(old) !== signOf(now) ? 'changed' : null;
}

function wasTried({ outcome }: TriedStep): boolean {
  return outcome !== 'not tried';
}

function keyOf({ operation, kind, name }: TriedStep): string {
  return [operation, kind, name].join('\0');
}

/** Ways it differs in, by their places: messages quote values that are another each time. */
function signOf({ differences }: TriedStep): string {
  return differences
    .filter(({ accepted }) => accepted === null)
    .map(({ at }) => at)
    .sort()
    .join('\0');
}

function changeOf({ operation, name }: TriedStep, what: TrialChange['what'], shown: TriedStep): TrialChange {
  return { operation, name, what, differences: [...shown.differences] };
}
