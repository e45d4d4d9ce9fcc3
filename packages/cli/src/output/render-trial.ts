import type { Trial, TriedStep } from '@upsetter/core';
import { paint } from './terminal.js';

const SIGNS = {
  holds: () => paint.good('holds    '),
  differs: () => paint.bad('differs  '),
  'not tried': () => paint.warn('not tried'),
} as const;

/** One step of a trial: what came of it, and how the real answer differs. */
export function renderTrialStep({ operation, name, outcome, reason, request, got, differences }: TriedStep): string {
  const sent =
    request === null ? '' : paint.faint(`  ${request.method} ${request.target} -> ${got?.status ?? 'no answer'}`);
  const why = reason === null ? '' : paint.faint(`  ${reason}`);
  const lines = differences.map(
    ({ at, message, rule }) => `             ${at}  ${message}${rule === null ? '' : `  ${paint.faint(rule)}`}`,
  );
  return [`${SIGNS[outcome]()}  ${paint.strong(operation)} / ${name}${sent}${why}`, ...lines].join('\n');
}

export function renderTrialSum({ against, steps }: Trial): string {
  const count = (outcome: TriedStep['outcome']): number => steps.filter((step) => step.outcome === outcome).length;
  const differing = count('differs');
  const differ =
    differing === 0 ? paint.good('none differs') : paint.bad(`${differing} ${differing === 1 ? 'differs' : 'differ'}`);
  return `\n${count('holds')} hold against ${against}, ${differ}, ${count('not tried')} not tried`;
}
