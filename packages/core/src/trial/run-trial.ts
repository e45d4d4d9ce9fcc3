import type { CompiledService } from '../matching/compile-service.js';
import { maskHeaders } from '../traffic/mask.js';
import { CarriedValues } from './carried-values.js';
import { compareTrial } from './compare-trial.js';
import { type PlanOptions, planTrial, type TrialStep } from './plan-trial.js';
import type { TrialAnswer, TrialRequest, TriedStep } from './trial-result.js';

/** Sends one call to the real implementation; rejects, with what to tell, when no answer came. */
export type SendCall = (request: TrialRequest) => Promise<{ readonly answer: TrialAnswer; readonly tookMs: number }>;

/** Tries a service's cases, and its contract, against a real implementation: each step as it is done, then those that were not tried. */
export async function* runTrial(
  service: CompiledService,
  options: PlanOptions,
  send: SendCall,
): AsyncGenerator<TriedStep> {
  const { steps, untried } = planTrial(service, options);
  const carried = new CarriedValues();
  for (const step of steps) yield await tryStep(step, carried, send);
  for (const { reason, ...head } of untried)
    yield { ...head, ...NOT_SENT, outcome: 'not tried', reason, request: null, wanted: null };
}

const NOT_SENT = { differences: [], got: null, tookMs: 0 };

async function tryStep(step: TrialStep, carried: CarriedValues, send: SendCall): Promise<TriedStep> {
  const { operation, kind, name } = step;
  const reason = carried.missing(step);
  if (reason !== null)
    return {
      operation,
      kind,
      name,
      ...NOT_SENT,
      outcome: 'not tried',
      reason,
      request: null,
      wanted: viewWanted(step),
    };
  const request = carried.fill(step);
  const masked = { ...request, headers: [...maskHeaders(request.headers)] };
  const head = { operation, kind, name, request: masked, wanted: viewWanted(step) };
  try {
    const { answer, tookMs } = await send(request);
    if (kind !== 'hostile') carried.learn(step, answer);
    const differences = compareTrial(step, answer);
    const outcome = differences.length === 0 ? 'holds' : 'differs';
    return { ...head, outcome, reason: null, differences, got: carried.masked(answer), tookMs };
  } catch (error) {
    const differences = [{ at: 'answer', message: (error as Error).message, rule: null }];
    return { ...head, ...NOT_SENT, outcome: 'differs', reason: null, differences };
  }
}

function viewWanted({ wanted }: TrialStep): TrialAnswer | null {
  if (wanted === null) return null;
  const { status, headers, body } = wanted;
  const text = body === null || typeof body === 'string' ? body : new TextDecoder().decode(body);
  return { status, headers: [...headers], body: text };
}
