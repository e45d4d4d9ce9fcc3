import type { CompiledService } from '../matching/compile-service.js';
import { maskHeaders } from '../traffic/mask.js';
import { CarriedValues } from './carried-values.js';
import { compareTrial, type FoundDifference } from './compare-trial.js';
import { type PlanOptions, planTrial } from './plan-trial.js';
import type { TrialAnswer, TrialRequest, TriedStep } from './trial-result.js';
import type { TrialStep } from './trial-step.js';

/** Sends one call to the real implementation; rejects, with what to tell, when no answer came. */
export type SendCall = (request: TrialRequest) => Promise<{ readonly answer: TrialAnswer; readonly tookMs: number }>;

export interface RunOptions extends PlanOptions {
  readonly environment: string;
  /** Told how many steps there will be, before the first one is sent. */
  readonly onPlanned?: (steps: number) => void;
}

/** Tries a service's cases, and its contract, against a real implementation: each step as it is done, then those that were not tried. */
export async function* runTrial(
  service: CompiledService,
  options: RunOptions,
  send: SendCall,
): AsyncGenerator<TriedStep> {
  const { steps, untried } = planTrial(service, options);
  options.onPlanned?.(steps.length + untried.length);
  const carried = new CarriedValues();
  const accepted = (step: TrialStep) => acceptedFor(service, step, options.environment);
  for (const step of steps) yield judge(await tryStep(step, carried, send), accepted(step));
  for (const { reason, ...head } of untried)
    yield { ...head, ...NOT_SENT, outcome: 'not tried', reason, request: null, wanted: null };
}

/** What was tried, before it is judged by what is accepted. */
type Tried = Omit<TriedStep, 'differences'> & { readonly differences: readonly FoundDifference[] };

function judge(tried: Tried, accepted: ReadonlyMap<string, string>): TriedStep {
  const differences = tried.differences.map((own) => ({ ...own, accepted: accepted.get(own.at) ?? null }));
  const isAccepted = differences.length > 0 && differences.every((own) => own.accepted !== null);
  return { ...tried, differences, outcome: isAccepted ? 'accepted' : tried.outcome };
}

/** The places where the file accepts differences of a step, with the reasons. */
function acceptedFor(
  service: CompiledService,
  { operation, kind, name }: TrialStep,
  environment: string,
): ReadonlyMap<string, string> {
  const definition = service.definition.operations[operation];
  const own = kind === 'case' ? definition?.cases.find((item) => item.case === name)?.accept : undefined;
  const all = [...(definition?.accept ?? []), ...(own ?? [])];
  return new Map(
    all.flatMap(({ at, because, in: where }) => (where === undefined || where === environment ? [[at, because]] : [])),
  );
}

const NOT_SENT = { differences: [], got: null, tookMs: 0 };

async function tryStep(step: TrialStep, carried: CarriedValues, send: SendCall): Promise<Tried> {
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
    if (kind !== 'hostile') carried.learn(step, request, answer);
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
