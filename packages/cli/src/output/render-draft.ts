import type { Draft, MergedDraft } from '@upsetter/core';
import { renderCount } from './render-count.js';
import { paint } from './terminal.js';

const MOST_DIFFERENCES = 20;

/** What a draft came to, what it concluded from what, and how faithful it is. */
export function renderDraft(draft: Draft, output: string | null): string {
  const level = draft.level === null ? '' : ` (${draft.level})`;
  const beside = Object.keys(draft.files).length;
  const files = beside === 0 ? '' : ` and ${renderCount(beside, 'file')} beside it`;
  const written = output === null ? '' : `, written to ${output}${files}`;
  const lines = [
    `${paint.strong(draft.service)}${level}: ${renderCount(draft.operations, 'operation')}, ${renderCount(draft.cases, 'case')}${written}`,
  ];
  for (const { id, of, concluded, evidence } of draft.decisions)
    lines.push(
      `  ${paint.strong(of)}  ${concluded}  ${paint.faint(id === undefined ? evidence : `${evidence}  [${id}]`)}`,
    );
  if (draft.unusable.length > 0)
    lines.push(paint.warn(`${renderCount(draft.unusable.length, 'part')} could not be used:`));
  for (const { at, reason } of draft.unusable) lines.push(`  ${at}  ${reason}`);
  return [...lines, ...renderFidelity(draft)].join('\n');
}

function renderFidelity({ fidelity }: Draft): string[] {
  if (fidelity === null) return [];
  const { exchanges, asHeard, differences } = fidelity;
  const share = exchanges === 0 ? 100 : Math.floor((asHeard / exchanges) * 1000) / 10;
  const line = `fidelity ${share} %: ${asHeard} of ${renderCount(exchanges, 'exchange')} answered as heard`;
  const lines = [differences.length === 0 ? paint.good(line) : paint.warn(line)];
  for (const { index, method, path, at, heard, given } of differences.slice(0, MOST_DIFFERENCES))
    lines.push(`  #${index} ${method} ${path}  ${at}: heard ${heard}, given ${given}`);
  if (differences.length > MOST_DIFFERENCES) lines.push(`  ... and ${differences.length - MOST_DIFFERENCES} more`);
  return lines;
}

/** What merging a newer draft came to. */
export function renderMerged(merged: Omit<MergedDraft, 'text' | 'files'>): string {
  const lines = [
    ...merged.added.map((part) => `${paint.good('added   ')}  ${part}`),
    ...merged.changed.map((part) => `${paint.good('changed ')}  ${part}`),
    ...merged.kept.map((part) => `${paint.faint('kept    ')}  ${part}  ${paint.faint('edited by hand')}`),
    ...merged.conflicts.map(
      (part) => `${paint.warn('conflict')}  ${part}  edited by hand, and drafted otherwise now: left as it is`,
    ),
  ];
  return lines.length === 0 ? 'nothing new in the draft' : lines.join('\n');
}
