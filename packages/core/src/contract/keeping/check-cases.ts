import type { CompiledOperation, CompiledService } from '../../matching/compile-service.js';
import type { Contract } from '../contract.js';
import type { ContractOperation, ContractResponse } from '../contract-operation.js';
import { checkAnswer, findResponse } from './check-answer.js';
import type { ContractIndex } from './contract-index.js';
import { findCaseCall } from './find-case-call.js';
import type { SchemaFinding, SchemaValidator } from './schema-validator.js';

/** One case of a service held against the contract. */
export interface CheckedCase {
  readonly operation: string;
  readonly case: string;
  /** `holds`; `differs`, in the ways `findings` says; `not called`: no sample call led to it. */
  readonly outcome: 'holds' | 'differs' | 'not called';
  readonly findings: readonly SchemaFinding[];
  /** What it answered with; null where it was not called. */
  readonly status: number | null;
}

/** What holding a service against a contract came to. */
export interface ContractCheck {
  readonly cases: readonly CheckedCase[];
  /** Operations of the service that the contract does not have. */
  readonly unknown: readonly { readonly operation: string; readonly on: string }[];
  /** Operations of the contract that the service does not have, with their places. */
  readonly missing: readonly { readonly on: string; readonly at: string }[];
  /** Responses of the contract that no case of the operation answers with. */
  readonly incomplete: readonly { readonly operation: string; readonly code: string; readonly at: string }[];
}

/** Holds each answer of each case against a contract, expressions included: they are rendered for sample calls. */
export function checkCases(service: CompiledService, index: ContractIndex): ContractCheck {
  const { contract, validator } = index;
  const cases: CheckedCase[] = [];
  const unknown: { operation: string; on: string }[] = [];
  const incomplete: { operation: string; code: string; at: string }[] = [];
  const found = new Set<ContractOperation>();
  for (const operation of service.operations) {
    const own = index.findByAddress(operation.address)?.operation ?? null;
    if (own === null) {
      unknown.push({ operation: operation.name, on: operation.on });
      continue;
    }
    found.add(own);
    const scope = { service, contract, operation, own, validator };
    const checked = operation.cases.map(({ name }, index) => checkCase(scope, name, index));
    cases.push(...checked);
    for (const { code, node } of findUnanswered(scope, checked))
      incomplete.push({ operation: operation.name, code, at: contract.describe(node) });
  }
  const missing = index.operations
    .filter(({ operation }) => !found.has(operation))
    .map(({ operation: own }) => ({ on: `${own.method} ${own.path}`, at: contract.describe(own.node) }));
  return { cases, unknown, missing, incomplete };
}

interface CaseScope {
  readonly service: CompiledService;
  readonly contract: Contract;
  readonly operation: CompiledOperation;
  readonly own: ContractOperation;
  readonly validator: SchemaValidator;
}

/** The responses that no case answers with, by the status it had, else by the one it names. */
function findUnanswered({ service, operation, own }: CaseScope, checked: readonly CheckedCase[]): ContractResponse[] {
  const definitions = service.definition.operations[operation.name]?.cases ?? [];
  const answered = new Set(
    checked.map(({ status }, i) => findResponse(own, status ?? Number(definitions[i]?.answer.status ?? 200))),
  );
  return own.responses.filter((response) => !answered.has(response) && /^[2-5](\d\d|XX)$/i.test(response.code));
}

function checkCase(scope: CaseScope, name: string, index: number): CheckedCase {
  const { service, operation, contract, own, validator } = scope;
  const head = { operation: operation.name, case: name };
  const answer = findCaseCall(service, contract, own, operation, index)?.answer ?? null;
  if (answer === null) return { ...head, outcome: 'not called', findings: [], status: null };
  const status = typeof answer === 'string' ? null : answer.status;
  const findings =
    typeof answer === 'string'
      ? [{ at: 'answer', message: answer, rule: contract.describe(own.node) }]
      : checkAnswer(contract, own, answer, validator);
  return { ...head, outcome: findings.length === 0 ? 'holds' : 'differs', findings, status };
}
