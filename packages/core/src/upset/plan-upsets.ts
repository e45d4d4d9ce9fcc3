import type { RequestView } from '../request/request-view.js';
import { fractionAt, hashText } from '../state/draw.js';
import type { Lane } from '../state/lane.js';
import type { CompiledDelay } from './compile-delay.js';
import type { CompiledPace } from './compile-pace.js';
import type { CompiledUpset } from './compile-upset.js';

/** What the upsets in force do to one call: delays add up, the slowest pace and the first answer in order win. The engine waits it out. */
export interface UpsetPlan {
  readonly names: readonly string[];
  readonly delayMs: number;
  /** What slows the body down; which of them is slowest depends on its length. Null: nothing. */
  readonly paces: readonly CompiledPace[] | null;
  /** The first upset that answers in the place of the case, or breaks the call. */
  readonly answeredBy: CompiledUpset | null;
}

/** The plan for one call, or null when no upset holds. `operation` is null for a stray. Counts the call for each upset that counts. */
export function planUpsets(
  upsets: readonly CompiledUpset[],
  operation: string | null,
  request: RequestView,
  lane: Lane,
): UpsetPlan | null {
  let names: string[] | null = null;
  let delayMs = 0;
  let paces: CompiledPace[] | null = null;
  let answeredBy: CompiledUpset | null = null;
  for (const upset of upsets) {
    if (!holds(upset, operation, request, lane)) continue;
    names ??= [];
    names.push(upset.name);
    if (upset.delay !== null) delayMs += delayOf(upset.name, upset.delay, lane);
    if (upset.pace !== null) {
      paces ??= [];
      paces.push(upset.pace);
    }
    if (upset.answer !== null || upset.break !== null) answeredBy ??= upset;
  }
  return names === null ? null : { names, delayMs, paces, answeredBy };
}

/** The same for the same how-manieth call of the lane. */
function delayOf(name: string, delay: CompiledDelay, lane: Lane): number {
  if (!delay.isDrawn) return delay.msAt(0);
  const key = `delay ${name}`;
  return delay.msAt(fractionAt(hashText(key, lane.seedHash), lane.countCall(key)));
}

function holds(upset: CompiledUpset, operation: string | null, request: RequestView, lane: Lane): boolean {
  if (upset.operations !== null && (operation === null || !upset.operations.has(operation))) return false;
  if (upset.conditions !== null && !upset.conditions.every((condition) => condition.test(request, null))) return false;
  return upset.timing === null || upset.timing(lane, request.receivedAtMs);
}
