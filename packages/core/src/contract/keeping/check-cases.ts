import type { RenderedAnswer } from '../../answer/rendered-answer.js';
import type { CompiledCase } from '../../matching/compile-case.js';
import type { CompiledOperation, CompiledService } from '../../matching/compile-service.js';
import type { ContractIndex, IndexedOperation } from './contract-index.js';
import { answerTurns, findCaseCall } from './find-case-call.js';
import type { SchemaFinding } from './schema-validator.js';

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
  /** Responses of the contract that no case of the operation answers with. */
  readonly incomplete: readonly { readonly operation: string; readonly code: string; readonly at: string }[];
}

/** Holds each answer of each case against a contract, expressions included: they are rendered for sample calls. */
export function checkCases(service: CompiledService, index: ContractIndex): ContractCheck {
  const cases: CheckedCase[] = [];
  const unknown: { operation: string; on: string }[] = [];
  const incomplete: { operation: string; code: string; at: string }[] = [];
  const found = new Set<IndexedOperation>();
  for (const operation of service.operations) {
    const own = index.findByAddress(operation.address);
    if (own === null) {
      unknown.push({ operation: operation.name, on: operation.on });
      continue;
    }
    found.add(own);
    const scope = { service, operation, own };
    const checked = operation.cases.map(({ name }, index) => checkCase(scope, name, index));
    cases.push(...checked.map(({ checked }) => checked));
    const answered = new Set(checked.flatMap(({ responses }) => responses));
    for (const { code, at } of own.responses)
      if (!answered.has(code)) incomplete.push({ operation: operation.name, code, at });
  }
  const missing = index.operations.filter((own) => !found.has(own)).map(({ on, at }) => ({ on, at }));
  return { cases, unknown, missing, incomplete };
}

interface CaseScope {
  readonly service: CompiledService;
  readonly operation: CompiledOperation;
  readonly own: IndexedOperation;
}

/** `responses`: those of the contract that the case answers with, by its answers, else by what it says of them. */
function checkCase(
  { service, operation, own }: CaseScope,
  name: string,
  index: number,
): { readonly checked: CheckedCase; readonly responses: readonly (string | null)[] } {
  const head = { operation: operation.name, case: name };
  const { definition, added } = operation.cases[index] as CompiledCase;
  const guessed = (added?.answers ?? [definition.answer]).map((answer) => own.guessResponse(answer));
  const found = findCaseCall(service, own, operation, index);
  if (found === null) {
    return { checked: { ...head, outcome: 'not called', findings: [] }, responses: guessed };
  }
  const turns = answerTurns(service, operation, index, found.call);
  const answers = turns.length > 0 ? turns : [found.answer];
  const findings = answers.flatMap((answer, turn) => {
    const own = checkAnswer(answer);
    return turns.length === 0 ? own : own.map((finding) => ({ ...finding, at: `turn ${turn + 1} ${finding.at}` }));
  });
  const given = answers.flatMap((answer) => (typeof answer === 'string' ? [] : [own.responseOf(answer)]));
  const responses = added === null ? given : [...given, ...guessed];
  return { checked: { ...head, outcome: findings.length === 0 ? 'holds' : 'differs', findings }, responses };

  function checkAnswer(answer: RenderedAnswer | string): readonly SchemaFinding[] {
    return typeof answer === 'string' ? [{ at: 'answer', message: answer, rule: own.at }] : own.checkAnswer(answer);
  }
}
