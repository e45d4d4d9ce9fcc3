import type { CheckRun } from '@upsetter/core/wire';
import { shortId } from './render-call.js';
import { paint } from './terminal.js';

/** A check run for people: one line for each check; a failed one with what was wanted, found, and came closest. */
export function renderChecks(run: CheckRun): string {
  const failed = run.results.filter((result) => !result.holds).length;
  const lines = run.results.flatMap((result) =>
    result.holds ? [`${paint.good('holds ')}  ${result.check}  ${paint.faint(result.found)}`] : renderFailed(result),
  );
  const held = run.results.length - failed;
  return [
    ...lines,
    '',
    failed === 0
      ? paint.good(held === 1 ? '1 check holds' : `${held} checks hold`)
      : `${held} hold, ${paint.bad(`${failed} ${failed === 1 ? 'does' : 'do'} not`)}`,
  ].join('\n');
}

function renderFailed(result: CheckRun['results'][number]): string[] {
  const lines = [
    `${paint.bad('failed')}  ${paint.strong(result.check)}`,
    `        wanted  ${result.wanted}`,
    `        found   ${result.found}`,
  ];
  if (result.near.length === 0) return [...lines, '        no call came close'];
  for (const call of result.near) {
    const stray = call.stray ? paint.warn(call.operation === null ? 'stray' : ' stray') : '';
    lines.push(`        ${paint.faint(shortId(call.id))}  ${call.call}  ${call.operation ?? ''}${stray}`);
    for (const { place, wanted, found, note } of call.differs) {
      lines.push(
        `            ${place}  wanted ${wanted}  found ${found}${note === undefined ? '' : paint.warn(`  (${note})`)}`,
      );
    }
  }
  if (result.more > 0) lines.push(paint.faint(`        ... and ${result.more} more`));
  return lines;
}
