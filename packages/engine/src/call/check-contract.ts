import type { CallFinding, RenderedAnswer } from '@upsetter/core';
import { buildContractProblem } from './built-in-answers.js';
import type { Call } from './call.js';

/** Holds the call against the service's contract: what differs stands on the record; where calls are refused, it is the answer. */
export function checkContract(call: Call): void {
  const { contract } = call.live.compiled;
  if (contract === null || contract.calls === 'ignore') return;
  const findings = contract.checkCall(call.request, call.record.operation);
  if (findings === null) return;
  call.record.findings = findings;
  const refusing = findings.filter(({ refusal }) => refusal !== null);
  if (contract.calls !== 'refuse' || refusing.length === 0) return;
  call.record.answeredBy = 'contract';
  call.answer = buildContractProblem(call, worstOf(refusing), refusing);
}

/** Who may not ask is told so first, then what cannot be read, then what cannot be answered. */
const ORDER = [401, 415, 406];

function worstOf(findings: readonly CallFinding[]): number {
  return ORDER.find((status) => findings.some(({ refusal }) => refusal === status)) ?? 400;
}

/** Adds to the record how an answer that came from the upstream differs from the contract. */
export function checkRelayedAnswer({ live, record, request }: Call, answer: RenderedAnswer): void {
  const { contract } = live.compiled;
  if (contract === null) return;
  const findings = contract.checkAnswer(request, answer);
  if (findings !== null) record.findings = [...(record.findings ?? []), ...findings];
}
