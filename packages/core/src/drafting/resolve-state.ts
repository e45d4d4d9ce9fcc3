import { wordsOf } from './case-name.js';
import { createCauseFinder } from './cause.js';
import type { CaseClass } from './classes.js';
import { type FoundState, findState } from './find-state.js';
import type { Heard } from './heard.js';
import type { PlannedOperation } from './plan-operation.js';
import type { MixedCases } from './planned-case.js';
import type { StateSite } from './state-site.js';

export interface ResolvedState extends FoundState {
  readonly siteOf: (planned: MixedCases) => StateSite | null;
}

/** State for the answers that the calls do not tell apart, over all operations. `taken`: names that state has already. */
export function resolveState(
  operations: readonly PlannedOperation[],
  session: readonly Heard[],
  taken: readonly string[],
): ResolvedState {
  const sites = new Map<MixedCases, StateSite>();
  const answers = new Map<Heard, { answer: CaseClass; label: string }>();
  for (const { operation, members, planned } of operations) {
    for (const item of planned) {
      if (item.kind === 'mixed') sites.set(item, { operation, members, planned: item });
      const parts = item.kind === 'mixed' ? item.answers : [item.answer];
      const words = planned.length > 1 ? wordsOf(item.conditions) : '';
      const label = [operation.name, words]
        .filter((part) => part !== '')
        .join(' ')
        .slice(0, 50);
      for (const answer of parts)
        for (const index of answer.members) {
          const heard = members[index]?.heard;
          if (heard?.isWrite === true) answers.set(heard, { answer, label });
        }
    }
  }
  const found = findState([...sites.values()], {
    causes: createCauseFinder(session),
    taken,
    writes: session.filter((heard) => heard.isWrite && heard.isSuccess),
    classOf: (write) => answers.get(write) ?? null,
  });
  return { ...found, siteOf: (planned) => sites.get(planned) ?? null };
}
