import type { Trial, TriedStep } from '@upsetter/core';
import type { TrialDetail } from '@upsetter/core/wire';
import { paint } from './terminal.js';

const SIGNS = {
  holds: () => paint.good('holds    '),
  accepted: () => paint.faint('accepted '),
  differs: () => paint.bad('differs  '),
  'not tried': () => paint.warn('not tried'),
} as const;

/** One step of a trial: what came of it, and how the real answer differs. */
export function renderTrialStep({ operation, name, outcome, reason, request, got, differences }: TriedStep): string {
  const sent =
    request === null ? '' : paint.faint(`  ${request.method} ${request.target} -> ${got?.status ?? 'no answer'}`);
  const why = reason === null ? '' : paint.faint(`  ${reason}`);
  const lines = differences.map(
    ({ at, message, rule, accepted }) =>
      `             ${at}  ${message}${rule === null ? '' : `  ${paint.faint(rule)}`}${accepted === null ? '' : paint.faint(`  accepted: ${accepted}`)}`,
  );
  return [`${SIGNS[outcome]()}  ${paint.strong(operation)} / ${name}${sent}${why}`, ...lines].join('\n');
}

export function renderTrialSum({ against, steps }: Trial): string {
  const count = (outcome: TriedStep['outcome']): number => steps.filter((step) => step.outcome === outcome).length;
  const differing = count('differs');
  const differ =
    differing === 0 ? paint.good('none differs') : paint.bad(`${differing} ${differing === 1 ? 'differs' : 'differ'}`);
  const accepted = count('accepted') === 0 ? '' : `, ${count('accepted')} accepted`;
  return `\n${count('holds')} hold against ${against}, ${differ}${accepted}, ${count('not tried')} not tried`;
}

const CHANGES = {
  began: 'differs now',
  changed: 'differs otherwise',
  ended: 'differs no more',
  new: 'tried first',
  gone: 'not tried any more',
};

/** What changed since the trial before, in the same environment. */
export function renderTrialChanges({ since, environment }: TrialDetail): string {
  if (since === null) return paint.faint(`the first trial kept of ${environment}`);
  const head = `since ${since.startedAt} (${environment})`;
  if (since.changes.length === 0) return paint.faint(`${head}: nothing changed`);
  const lines = since.changes.map(({ operation, name, what, differences }) => {
    const places = differences.map(({ at }) => at).join(', ');
    return `  ${CHANGES[what]}  ${paint.strong(operation)} / ${name}${places === '' ? '' : paint.faint(`  ${places}`)}`;
  });
  return [`${head}:`, ...lines].join('\n');
}
