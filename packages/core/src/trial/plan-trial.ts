import type { ExactPlace } from '../answer/exact-place.js';
import type { RenderedAnswer } from '../answer/rendered-answer.js';
import type { ContractIndex, IndexedOperation } from '../contract/keeping/contract-index.js';
import { findCaseCall } from '../contract/keeping/find-case-call.js';
import { emptyParts, renderSample, type SampleCall } from '../contract/keeping/sample-parts.js';
import type { CompiledService } from '../matching/compile-service.js';
import type { OperationAddress } from '../matching/path-template.js';
import type { TriedStep } from './trial-result.js';

/** One call that a trial means to send. */
export interface TrialStep {
  readonly operation: string;
  readonly kind: TriedStep['kind'];
  readonly name: string;
  readonly address: OperationAddress;
  readonly call: SampleCall;
  /** What the case answers; null where the contract alone is asked. */
  readonly wanted: RenderedAnswer | null;
  readonly contract: IndexedOperation | null;
  /** Segments of the path that take the id of what an earlier call made. */
  readonly carries: readonly CarriedSegment[];
  /** What is compared by value. */
  readonly exact: readonly ExactPlace[];
}

export interface CarriedSegment {
  readonly segment: number;
  /** The path at which it was made, whatever its parameters are called. */
  readonly madeAt: string;
}

/** What cannot be sent, and why. */
export interface UntriedStep {
  readonly operation: string;
  readonly kind: TriedStep['kind'];
  readonly name: string;
  readonly reason: string;
}

export interface TrialPlan {
  readonly steps: readonly TrialStep[];
  readonly untried: readonly UntriedStep[];
}

export interface PlanOptions {
  /** Calls that change things are sent, too. */
  readonly writes: boolean;
  /** Calls that must be refused are sent, too. */
  readonly hostile: boolean;
}

const REFUSED = 400;
const HOSTILE_RANK = 3;
const SAFE = ['GET', 'HEAD', 'OPTIONS'];

/** The calls of a trial, in an order that makes things before it reads them, and removes them last. */
export function planTrial(service: CompiledService, options: PlanOptions): TrialPlan {
  const index = service.contract?.index ?? null;
  const untried: UntriedStep[] = [];
  const all = [...planCases(service, index, untried), ...(index === null ? [] : planContract(service, index, options))];
  const makers = new Set(all.filter(isMaker).map(({ address }) => shapeOfPath(address, address.segments.length)));
  const steps = all.flatMap((step): TrialStep[] => {
    const { operation, kind, name, address } = step;
    const carries = step.carries.filter(({ madeAt }) => makers.has(madeAt));
    const reason = options.writes
      ? null
      : !SAFE.includes(address.method)
        ? `${address.method} may change things: --writes sends it`
        : carries.length > 0
          ? 'it reads what another call makes: --writes makes one'
          : null;
    if (reason === null) return [{ ...step, carries }];
    untried.push({ operation, kind, name, reason });
    return [];
  });
  return { steps: inOrder(steps), untried };
}

function planCases(service: CompiledService, index: ContractIndex | null, untried: UntriedStep[]): TrialStep[] {
  return service.operations.flatMap((operation) =>
    operation.cases.flatMap(({ name }, i): TrialStep[] => {
      const head = { operation: operation.name, kind: 'case' as const, name };
      const contract = index?.findByAddress(operation.address) ?? null;
      const found = findCaseCall(service, contract, operation, i);
      if (found === null || typeof found.answer === 'string') {
        const reason = found === null ? 'no sample call leads to it: it needs state, or an expression' : found.answer;
        untried.push({ ...head, reason: String(reason) });
        return [];
      }
      const { address } = operation;
      const { when, sample } = service.definition.operations[operation.name]?.cases[i] ?? {};
      const asked = [...Object.keys(when ?? {}), ...Object.keys(sample?.path ?? {}).map((own) => `path ${own}`)];
      const carries = found.answer.status < REFUSED ? carriedSegments(address, asked) : [];
      const exact = operation.cases[i]?.exact ?? [];
      return [{ ...head, address, call: found.call, wanted: found.answer, contract, carries, exact }];
    }),
  );
}

/** Operations that have no case are asked by the contract alone; and calls that must be refused. */
function planContract(service: CompiledService, index: ContractIndex, { hostile }: PlanOptions): TrialStep[] {
  const own = new Map(service.operations.map((operation) => [index.findByAddress(operation.address), operation]));
  return index.operations.flatMap((contract) => {
    const mine = own.get(contract);
    const address = mine?.address ?? contract.address;
    if (address === null) return [];
    const head = {
      operation: mine?.name ?? contract.id ?? contract.on,
      address,
      wanted: null,
      contract,
      carries: carriedSegments(address, []),
      exact: [],
    };
    const valid: TrialStep = {
      ...head,
      kind: 'contract',
      name: 'a valid call',
      call: renderSample(address, contract.samples()[0] ?? emptyParts()),
    };
    const invalid = hostile
      ? contract.hostileCalls(address).map(({ name, call }): TrialStep => ({ ...head, kind: 'hostile', name, call }))
      : [];
    return [...(mine === undefined || mine.cases.length === 0 ? [valid] : []), ...invalid];
  });
}

/** The parameters of a path, but for those that a condition asks for. */
function carriedSegments(address: OperationAddress, asked: readonly string[]): CarriedSegment[] {
  return address.segments.flatMap((segment, i) =>
    segment.kind === 'literal' || asked.includes(`path ${segment.name}`)
      ? []
      : [{ segment: i, madeAt: shapeOfPath(address, i) }],
  );
}

/** What a path begins with, whatever its parameters are called. */
export function shapeOfPath({ segments }: OperationAddress, length: number): string {
  return segments
    .slice(0, length)
    .map((segment) => (segment.kind === 'literal' ? `=${segment.text}` : '{}'))
    .join('/');
}

function isMaker({ address, kind }: TrialStep): boolean {
  return kind !== 'hostile' && address.method === 'POST' && address.segments.at(-1)?.kind === 'literal';
}

/** Made first, then read, then changed, then removed; what stands higher in the path before what stands below it. */
function inOrder(steps: readonly TrialStep[]): TrialStep[] {
  return steps
    .map((step, i) => ({ step, i, rank: rankOf(step) }))
    .sort((a, b) => a.rank - b.rank || a.step.address.segments.length - b.step.address.segments.length || a.i - b.i)
    .map(({ step }) => step);
}

/** Who gives tokens is asked first: the others may need one. */
const GIVES_TOKENS = /^(log-?in|sign-?in|tokens?|sessions?|auth.*)$/i;

function rankOf({ kind, address: { method, segments } }: TrialStep): number {
  // Calls that must be refused may need the id of what was made, too.
  if (kind === 'hostile') return HOSTILE_RANK;
  const last = segments.at(-1);
  if (method === 'POST' && last?.kind === 'literal' && GIVES_TOKENS.test(last.text)) return 0;
  if (method === 'POST' && segments.every((own) => own.kind === 'literal')) return 1;
  if (SAFE.includes(method)) return 2;
  return method === 'DELETE' ? 5 : 4;
}
