import type { CallFinding } from '@upsetter/core';
import { renderTable } from './render-table.js';
import { paint } from './terminal.js';

/** How a call and its answer differ from the contract: where, in what way, and the rule with its line. */
export function renderFindings(findings: readonly CallFinding[]): string {
  const rows = findings.map(({ in: side, at, message, rule, refusal }) => [
    side,
    at,
    refusal === null ? paint.warn(message) : paint.bad(message),
    paint.faint(rule),
  ]);
  return renderTable(['differs from the contract', 'at', 'how', 'rule'], rows);
}
