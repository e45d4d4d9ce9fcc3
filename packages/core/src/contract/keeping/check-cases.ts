import type { RenderedAnswer } from '../../answer/rendered-answer.js';
import type { CompiledOperation, CompiledService } from '../../matching/compile-service.js';
import { findOperation } from '../../matching/find-operation.js';
import { addressShape, parseOperationAddress } from '../../matching/path-template.js';
import { commitCall } from '../../state/commit-call.js';
import { Lanes } from '../../state/lane.js';
import type { Contract } from '../contract.js';
import type { ContractOperation } from '../contract-operation.js';
import { readOperations } from '../read-operations.js';
import { checkAnswer } from './check-answer.js';
import { sampleCalls } from './sample-call.js';
import { type SchemaFinding, SchemaValidator } from './schema-validator.js';

/** One case of a service held against the contract. */
export interface CheckedCase {
  readonly operation: string;
  readonly case: string;
  /** `holds`; `differs`, in the ways `findings` says; `not called`: no sample call led to it. */
  readonly outcome: 'holds' | 'differs' | 'not called';
  readonly findings: readonly SchemaFinding[];
}

/** What holding a service against a contract came to. */
export interface ContractCheck {
  readonly cases: readonly CheckedCase[];
  /** Operations of the service that the contract does not have. */
  readonly unknown: readonly { readonly operation: string; readonly on: string }[];
  /** Operations of the contract that the service does not have, with their places. */
  readonly missing: readonly { readonly on: string; readonly at: string }[];
}

/** Holds each answer of each case against a contract, expressions included: they are rendered for sample calls. */
export function checkCases(service: CompiledService, contract: Contract): ContractCheck {
  const known = indexOperations(contract);
  const validator = new SchemaValidator(contract);
  const cases: CheckedCase[] = [];
  const unknown: { operation: string; on: string }[] = [];
  const found = new Set<ContractOperation>();
  for (const operation of service.operations) {
    const own = known.get(addressShape(operation.address)) ?? null;
    if (own === null) {
      unknown.push({ operation: operation.name, on: operation.on });
      continue;
    }
    found.add(own);
    const scope = { service, contract, operation, own, validator };
    cases.push(...operation.cases.map(({ name }, index) => checkCase(scope, name, index)));
  }
  const missing = [...new Set(known.values())]
    .filter((own) => !found.has(own))
    .map((own) => ({ on: `${own.method} ${own.path}`, at: contract.describe(own.node) }));
  return { cases, unknown, missing };
}

/** Services have the paths of a contract with the base path of its server, or without it. */
function indexOperations(contract: Contract): Map<string, ContractOperation> {
  const known = new Map<string, ContractOperation>();
  const based = readOperations(contract, true, () => {});
  const plain = readOperations(contract, false, () => {});
  for (const [i, operation] of based.entries()) {
    for (const path of [operation.path, plain[i]?.path ?? operation.path]) {
      const parsed = parseOperationAddress(`${operation.method} ${path}`);
      if (parsed.kind !== 'refused' && !known.has(addressShape(parsed.address)))
        known.set(addressShape(parsed.address), operation);
    }
  }
  return known;
}

interface CaseScope {
  readonly service: CompiledService;
  readonly contract: Contract;
  readonly operation: CompiledOperation;
  readonly own: ContractOperation;
  readonly validator: SchemaValidator;
}

function checkCase(scope: CaseScope, name: string, index: number): CheckedCase {
  const { operation, contract, own, validator } = scope;
  const head = { operation: operation.name, case: name };
  const answer = sampleAnswer(scope, name, index);
  if (answer === null) return { ...head, outcome: 'not called', findings: [] };
  const findings =
    typeof answer === 'string'
      ? [{ at: 'answer', message: answer, rule: contract.describe(own.node) }]
      : checkAnswer(contract, own, answer, validator);
  return { ...head, outcome: findings.length === 0 ? 'holds' : 'differs', findings };
}

/** The answer of the case to the first sample call that leads to it; a text when an expression of it failed. */
function sampleAnswer(
  { service, contract, operation, own }: CaseScope,
  name: string,
  index: number,
): RenderedAnswer | string | null {
  const definition = service.definition.operations[operation.name]?.cases[index];
  if (definition === undefined) return null;
  for (const request of sampleCalls(contract, own, service, operation, definition)) {
    const destination = findOperation(service, request);
    if (destination.kind !== 'operation' || destination.operation !== operation) continue;
    const lane = new Lanes(service.definition.seed ?? service.name).get('contract');
    const decision = commitCall(service, operation, request, lane, request.receivedAtMs);
    if (decision.kind === 'answered' && decision.caseName === name) return decision.answer;
    if (decision.kind === 'failed' && decision.caseName === name) return decision.reason;
  }
  return null;
}
