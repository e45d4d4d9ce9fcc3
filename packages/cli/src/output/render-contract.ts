import type { CheckedCase, ContractCheck } from '@upsetter/core';
import { renderCount } from './render-count.js';
import { paint } from './terminal.js';

/** A contract check for people: what differs, with the place in the answer and the rule of the contract; then the sums. */
export function renderContractCheck({ cases, unknown, missing }: ContractCheck): string {
  const differing = cases.filter(({ outcome }) => outcome === 'differs');
  const silent = cases.filter(({ outcome }) => outcome === 'not called');
  const lines = [
    ...differing.flatMap(renderDiffering),
    ...unknown.map(
      ({ operation, on }) => `${paint.bad('unknown')}  ${paint.strong(operation)}  ${on} is not in the contract`,
    ),
    ...silent.map((own) => `${paint.warn('not called')}  ${nameOf(own)}  ${paint.faint('no sample call leads to it')}`),
    ...missing.map(({ on, at }) => `${paint.warn('no case')}  ${on}  ${paint.faint(at)}`),
  ];
  const held = cases.length - differing.length - silent.length;
  const wrong = differing.length + unknown.length;
  const sum =
    wrong === 0
      ? paint.good(`${renderCount(held, 'case')} as the contract says`)
      : `${renderCount(held, 'case')} as the contract says, ${paint.bad(`${wrong} not`)}`;
  const more = [
    silent.length > 0 ? `${silent.length} not called` : '',
    missing.length > 0 ? `${renderCount(missing.length, 'operation')} of the contract without a case` : '',
  ].filter((text) => text !== '');
  return [...lines, ...(lines.length > 0 ? [''] : []), [sum, ...more].join('; ')].join('\n');
}

function renderDiffering(own: CheckedCase): string[] {
  return [
    `${paint.bad('differs')}  ${nameOf(own)}`,
    ...own.findings.map(({ at, message, rule }) => `         ${at}  ${message}  ${paint.faint(rule)}`),
  ];
}

function nameOf(own: CheckedCase): string {
  return `${paint.strong(own.operation)} / ${own.case}`;
}
