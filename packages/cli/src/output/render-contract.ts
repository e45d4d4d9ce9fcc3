import type { ContractReport } from '@upsetter/core';
import { renderCount } from './render-count.js';
import { paint } from './terminal.js';

type Check = Omit<ContractReport, 'file' | 'calls' | 'lost'>;
type CheckedCase = Check['cases'][number];

/** A contract check for people: what differs, with its line in the file and the rule of the contract; then the sums. */
export function renderContractCheck({ cases, unknown, missing, incomplete }: Check, file: string): string {
  const differing = cases.filter(({ outcome }) => outcome === 'differs');
  const silent = cases.filter(({ outcome }) => outcome === 'not called');
  const lines = [
    ...differing.flatMap((own) => renderDiffering(own, file)),
    ...unknown.map(
      ({ operation, on, line }) =>
        `${paint.bad('unknown')}  ${paint.strong(operation)}  ${on} is not in the contract  ${paint.faint(`${file}:${line}`)}`,
    ),
    ...silent.map((own) => `${paint.warn('not called')}  ${nameOf(own)}  ${paint.faint('no sample call leads to it')}`),
    ...missing.map(({ on, at }) => `${paint.warn('no operation')}  ${on}  ${paint.faint(at)}`),
    ...incomplete.map(
      ({ operation, code, at }) => `${paint.warn('no case')}  ${paint.strong(operation)}  ${code}  ${paint.faint(at)}`,
    ),
  ];
  const held = cases.length - differing.length - silent.length;
  const wrong = differing.length + unknown.length;
  const sum =
    wrong === 0
      ? paint.good(`${renderCount(held, 'case')} as the contract says`)
      : `${renderCount(held, 'case')} as the contract says, ${paint.bad(`${wrong} not`)}`;
  const more = [
    silent.length > 0 ? `${silent.length} not called` : '',
    missing.length > 0 ? `${renderCount(missing.length, 'operation')} of the contract missing` : '',
    incomplete.length > 0 ? `${renderCount(incomplete.length, 'response')} without a case` : '',
  ].filter((text) => text !== '');
  return [...lines, ...(lines.length > 0 ? [''] : []), [sum, ...more].join('; ')].join('\n');
}

function renderDiffering(own: CheckedCase, file: string): string[] {
  return [
    `${paint.bad('differs')}  ${nameOf(own)}`,
    ...own.findings.map(
      ({ at, message, rule, line }) =>
        `         ${paint.faint(`${file}:${line}`)}  ${at}  ${message}  ${paint.faint(rule)}`,
    ),
  ];
}

function nameOf(own: CheckedCase): string {
  return `${paint.strong(own.operation)} / ${own.case}`;
}
