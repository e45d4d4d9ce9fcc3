import type { ShownProblem } from '../exit.js';
import { paint } from './terminal.js';

/** A problem for people: what is wrong, each mistake with its line of the file, and what to do next. */
export function renderProblem(
  problem: Omit<ShownProblem, 'code'>,
  file: { name: string; text: string } | null,
): string {
  const lines = [`${paint.bad('error')}: ${file === null ? '' : `${file.name}: `}${problem.detail}`];
  for (const mistake of problem.problems ?? []) {
    const place = `${file?.name ?? 'file'}:${mistake.line}:${mistake.column}`;
    lines.push(
      '',
      `  ${paint.strong(place)}${mistake.path === '' ? '' : `  ${paint.faint(mistake.path)}`}`,
      `    ${mistake.message}`,
    );
    const source = file?.text.split('\n')[mistake.line - 1];
    if (source !== undefined) lines.push(...renderSource(source, mistake.line, mistake.column));
  }
  for (const { at, reason } of problem.unusable ?? []) lines.push(`  ${paint.strong(at)}  ${reason}`);
  if (problem.next !== '') lines.push('', problem.next);
  return lines.join('\n');
}

const LONGEST_LINE = 110;

function renderSource(source: string, line: number, column: number): string[] {
  const from = Math.max(0, column - LONGEST_LINE + 20);
  const gutter = `    ${line} | `;
  return [
    paint.faint(gutter) + source.slice(from, from + LONGEST_LINE),
    `${' '.repeat(gutter.length + column - 1 - from)}${paint.bad('^')}`,
  ];
}
