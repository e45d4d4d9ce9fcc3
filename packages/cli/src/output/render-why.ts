import type { Explanation } from '@upsetter/core';
import { paint } from './terminal.js';

type Ladder = Explanation['ladder'][number];
type Condition = Ladder['address'][number];

/** Why, as a ladder: each case in order with its conditions, wanted and found side by side. */
export function renderWhy(why: Explanation): string {
  const notes = (why.notes ?? []).map((note) => `${paint.faint('log')}  ${note}`);
  return [why.summary, ...notes, ...why.ladder.flatMap(renderOperation)].join('\n');
}

const SIGNS: Readonly<Record<Ladder['cases'][number]['outcome'], () => string>> = {
  answered: () => paint.good('=> answered   '),
  'would answer': () => paint.warn('-> would answer'),
  failed: () => paint.bad('x  did not hold'),
  'not reached': () => paint.faint('.  not reached'),
};

function renderOperation(operation: Ladder): string[] {
  const lines = [
    '',
    `${paint.strong(operation.operation)}  ${operation.on}${operation.reached ? '' : paint.faint('  (not this one)')}`,
  ];
  lines.push(...renderConditions(operation.address, '  ', true));
  for (const item of operation.cases) {
    lines.push(`  ${SIGNS[item.outcome]()}  ${item.outcome === 'answered' ? paint.strong(item.case) : item.case}`);
    lines.push(...renderConditions(item.conditions, '       ', item.outcome !== 'not reached'));
  }
  return lines;
}

/** Conditions of a case that was not reached say what they would have done, faintly. */
function renderConditions(conditions: readonly Condition[], indent: string, wasReached: boolean): string[] {
  const width = Math.max(0, ...conditions.map((condition) => condition.place.length));
  const wantedWidth = Math.max(0, ...conditions.map((condition) => condition.wanted.length));
  return conditions.map(({ place, wanted, found, held, note, depth = 0 }) => {
    const sign = !wasReached
      ? paint.faint(held ? 'would hold' : 'would fail')
      : held
        ? paint.good('held  ')
        : paint.bad('failed');
    return `${indent}${'  '.repeat(depth)}${sign}  ${place.padEnd(width)}  wanted ${wanted.padEnd(wantedWidth)}  found ${found}${note === undefined ? '' : paint.warn(`  (${note})`)}`;
  });
}
