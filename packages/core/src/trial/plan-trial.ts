import type { ContractIndex } from '../contract/keeping/contract-index.js';
import { findCaseCall } from '../contract/keeping/find-case-call.js';
import { sampleCalls } from '../contract/keeping/sample-call.js';
import { emptyParts, renderSample } from '../contract/keeping/sample-parts.js';
import type { CompiledService } from '../matching/compile-service.js';
import type { OperationAddress } from '../matching/path-template.js';
import { findStatefulSteps, putBehind, type WaitingCase } from './stateful-steps.js';
import type { TriedStep } from './trial-result.js';
import { type CarriedSegment, shapeOfPath, type TrialStep } from './trial-step.js';

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
  const waiting: WaitingCase[] = [];
  const all = [
    ...planCases(service, index, untried, waiting),
    ...(index === null ? [] : planContract(service, index, options)),
  ];
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
  const ordered = inOrder(steps);
  const told = withStateful(service, ordered, waiting, makers, options, untried);
  return { steps: told, untried: inFileOrder(service, untried) };
}

function inFileOrder({ operations }: CompiledService, untried: readonly UntriedStep[]): UntriedStep[] {
  const keys = operations.flatMap(({ name, cases }) => cases.map((own) => `${name} / ${own.name}`));
  const placeOf = ({ operation, name }: UntriedStep): number => {
    const place = keys.indexOf(`${operation} / ${name}`);
    return place < 0 ? keys.length : place;
  };
  return [...untried].sort((a, b) => placeOf(a) - placeOf(b));
}

/** The steps with those cases among them that only come to answer after others; what none leads to is told. */
function withStateful(
  service: CompiledService,
  steps: readonly TrialStep[],
  waiting: readonly WaitingCase[],
  makers: ReadonlySet<string>,
  { writes }: PlanOptions,
  untried: UntriedStep[],
): TrialStep[] {
  const known = waiting.map((own) => ({
    ...own,
    candidates: own.candidates.map((step) => ({
      ...step,
      carries: step.carries.filter(({ madeAt }) => makers.has(madeAt)),
    })),
  }));
  const reached = writes ? findStatefulSteps(service, steps, known) : [];
  for (const { operation, name } of waiting) {
    if (reached.some(({ step }) => step.operation === operation && step.name === name)) continue;
    const reason = writes
      ? 'no made-up call leads to it, also not after the others: it needs a `sample`, or other state'
      : 'it needs state: --writes makes the calls that may lead to it';
    untried.push({ operation, kind: 'case', name, reason });
  }
  return putBehind(steps, reached);
}

function planCases(
  service: CompiledService,
  index: ContractIndex | null,
  untried: UntriedStep[],
  waiting: WaitingCase[],
): TrialStep[] {
  return service.operations.flatMap((operation) =>
    operation.cases.flatMap(({ name, definition }, i): TrialStep[] => {
      const head = { operation: operation.name, kind: 'case' as const, name };
      const contract = index?.findByAddress(operation.address) ?? null;
      const found = findCaseCall(service, contract, operation, i);
      const { when, sample } = definition;
      const { address } = operation;
      const sampled = (place: string, own: object = {}) => Object.keys(own).map((name) => `${place} ${name}`);
      const asked = [...Object.keys(when ?? {}), ...sampled('path', sample?.path), ...sampled('query', sample?.query)];
      const exact = operation.cases[i]?.exact ?? [];
      const common = { ...head, address, contract, exact, asked };
      if (found === null) {
        const carries = carriedSegments(address, asked);
        const candidates = sampleCalls(contract, service, operation, definition).map(
          (call): TrialStep => ({ ...common, call, wanted: null, carries, carriesBody: true }),
        );
        waiting.push({ operation: operation.name, name, changes: operation.cases[i]?.steps != null, candidates });
        return [];
      }
      if (typeof found.answer === 'string') {
        untried.push({ ...head, reason: found.answer });
        return [];
      }
      const carries = found.answer.status < REFUSED ? carriedSegments(address, asked) : [];
      return [{ ...common, call: found.call, wanted: found.answer, carries, carriesBody: false }];
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
      asked: [],
      carriesBody: false,
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
    // A part of a segment is sent as it was made up.
    segment.kind === 'literal' || segment.kind === 'mixed' || asked.includes(`path ${segment.name}`)
      ? []
      : [{ segment: i, madeAt: shapeOfPath(address, i) }],
  );
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
