import type { Callers } from './callers.js';
import type { CaseClass } from './classes.js';
import type { DraftDecision } from './draft.js';
import type { PlannedOperation } from './plan-operation.js';

/** Whether any case asks who calls: else nothing needs to keep it. */
export function isAsked({ place, read }: Callers, operations: readonly PlannedOperation[]): boolean {
  return operations.some(
    ({ planned, classes, subject }) =>
      planned.some(({ conditions }) => conditions.some((condition) => condition.place === place)) ||
      classes.some(({ body }) => JSON.stringify(body).includes(read)) ||
      JSON.stringify(subject?.where ?? {}).includes(read),
  );
}

/** What the cases of one operation set when they begin or end a caller's session. */
export function callerSteps({ planned, members }: PlannedOperation, { steps }: Callers): Map<CaseClass, unknown[]> {
  const found = new Map<CaseClass, unknown[]>();
  for (const item of planned) {
    for (const answer of item.kind === 'mixed' ? item.answers : [item.answer]) {
      const own = new Map<string, unknown>();
      for (const index of answer.members) {
        const step = steps.get(members[index]?.heard.position ?? -1);
        if (step !== undefined) own.set(JSON.stringify(step), step);
      }
      if (own.size > 0) found.set(answer, [...own.values()]);
    }
  }
  return found;
}

export function describeCallers({ read, name, steps }: Callers): DraftDecision {
  return {
    id: 'callers',
    confidence: 0.9,
    of: 'draft',
    concluded: `who calls is known by ${read.slice(read.indexOf('[') + 1, -1)}`,
    evidence: `given or taken away ${steps.size === 1 ? 'once' : `${steps.size} times`}; callers are called by their ${name}`,
  };
}
