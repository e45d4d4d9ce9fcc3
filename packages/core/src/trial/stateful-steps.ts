import type { RenderedAnswer } from '../answer/rendered-answer.js';
import type { CompiledService } from '../matching/compile-service.js';
import { findOperation } from '../matching/find-operation.js';
import { RequestView } from '../request/request-view.js';
import { commitCall } from '../state/commit-call.js';
import { type Lane, Lanes } from '../state/lane.js';
import { CarriedValues } from './carried-values.js';
import type { TrialRequest } from './trial-result.js';
import type { TrialStep } from './trial-step.js';

/** A case that a fresh service does not answer with, and calls that may lead to it. */
export interface WaitingCase {
  readonly operation: string;
  readonly name: string;
  /** Whether it changes state itself. */
  readonly changes: boolean;
  /** The likeliest first; what they carry is what earlier calls made. */
  readonly candidates: readonly TrialStep[];
}

/** A case that was reached, and the step it has to follow. */
export interface ReachedCase {
  readonly step: TrialStep;
  readonly after: TrialStep;
  readonly changes: boolean;
}

/** The steps with the cases that were reached behind those they follow: what only looks first, then what changes something. */
export function putBehind(steps: readonly TrialStep[], reached: readonly ReachedCase[]): TrialStep[] {
  const follow = (step: TrialStep): TrialStep[] => {
    const own = reached.filter(({ after }) => after === step);
    return [
      step,
      ...own.filter(({ changes }) => !changes).map((one) => one.step),
      ...own.filter(({ changes }) => changes).flatMap((one) => follow(one.step)),
    ];
  };
  return steps.flatMap(follow);
}

const SAMPLED_AT_MS = Date.UTC(2026, 2, 1, 8);
/** Each step is played anew for each that follows: longer stories would take long to tell. */
const MOST_STEPS = 40;

/**
 * Which cases the service itself answers with once other calls were made: the mock is played through, step by step, with
 * what its answers gave carried along, as the trial will be. A case that was reached may lead to others.
 */
export function findStatefulSteps(
  service: CompiledService,
  steps: readonly TrialStep[],
  waiting: readonly WaitingCase[],
): ReachedCase[] {
  const story = steps.filter(({ address }) => address.method !== 'GET').slice(0, MOST_STEPS);
  const reached: ReachedCase[] = [];
  let left = waiting;
  for (let isMore = true; isMore && left.length > 0; ) {
    isMore = false;
    for (let length = 1; length <= story.length; length++) {
      const found = left.flatMap((own) => reach(service, story.slice(0, length), own) ?? []);
      const after = story[length - 1] as TrialStep;
      for (const { step, waits } of found) reached.push({ step, after, changes: waits.changes });
      story.splice(length, 0, ...found.filter(({ waits }) => waits.changes).map(({ step }) => step));
      left = left.filter((own) => !found.some(({ waits }) => waits === own));
      isMore ||= found.length > 0;
    }
  }
  return reached;
}

/** The first of a case's calls that leads to it, after the others. */
function reach(
  service: CompiledService,
  story: readonly TrialStep[],
  waits: WaitingCase,
): { readonly step: TrialStep; readonly waits: WaitingCase } | null {
  for (const candidate of waits.candidates) {
    const lane = new Lanes(service.definition.seed ?? service.name).get('trial');
    const carried = new CarriedValues();
    for (const step of story) {
      const request = carried.fill(step);
      const played = play(service, lane, request);
      if (played !== null) carried.learn(step, request, toTrialAnswer(played.answer));
    }
    if (carried.missing(candidate) !== null) continue;
    const played = play(service, lane, carried.fill(candidate));
    if (played?.caseName === waits.name && played.operation === waits.operation)
      return { step: { ...candidate, wanted: played.answer }, waits };
  }
  return null;
}

function play(service: CompiledService, lane: Lane, { method, target, headers, body }: TrialRequest) {
  const request = new RequestView('sample', method, target, headers, SAMPLED_AT_MS);
  request.body = body === null ? null : new TextEncoder().encode(body);
  const destination = findOperation(service, request);
  if (destination.kind !== 'operation') return null;
  const { operation } = destination;
  const decision = commitCall(service, operation, request, lane, SAMPLED_AT_MS);
  if (decision.kind !== 'answered') return null;
  return { operation: operation.name, caseName: decision.caseName, answer: decision.answer };
}

function toTrialAnswer({ status, headers, body }: RenderedAnswer) {
  const text = body === null || typeof body === 'string' ? body : new TextDecoder().decode(body);
  return { status, headers: [...headers], body: text };
}
