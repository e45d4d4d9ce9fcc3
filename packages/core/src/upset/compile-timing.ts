import { parseDuration, parseShare } from '../definition/duration.js';
import type { UpsetDefinition } from '../definition/upset.js';
import { fractionAt, hashText } from '../state/draw.js';
import type { Lane } from '../state/lane.js';

/** Whether an upset holds for one of the calls it is about; each call asks once. Counts and windows are the lane's own. */
export type CompiledTiming = (lane: Lane, realMs: number) => boolean;

/** Null: it holds for every call. */
export function compileTiming({ upset, share, first, every, during }: UpsetDefinition): CompiledTiming | null {
  const key = `upset ${upset}`;
  if (share !== undefined) {
    const limit = parseShare(share) ?? 1;
    return (lane) => fractionAt(hashText(key, lane.seedHash), lane.countCall(key)) < limit;
  }
  if (first !== undefined) return (lane) => lane.countCall(key) <= first;
  if (every !== undefined) return (lane) => lane.countCall(key) % every === 0;
  if (during === undefined) return null;
  const fromMs = parseDuration(during.from ?? '0ms') ?? 0;
  const toMs = fromMs + (parseDuration(during.for) ?? 0);
  const roundMs = during.again === undefined ? null : (parseDuration(during.again) ?? 0);
  return (lane, realMs) => {
    const ageMs = lane.ageOf(upset, realMs);
    const inRoundMs = roundMs === null || ageMs < 0 ? ageMs : ageMs % roundMs;
    return inRoundMs >= fromMs && inRoundMs < toMs;
  };
}
