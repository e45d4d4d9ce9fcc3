import { MS_PER_SECOND, parseDuration } from '../definition/duration.js';
import type { PaceDefinition } from '../definition/pace.js';
import { parseRate } from '../definition/rate.js';

/**
 * How a body comes: piece by piece, so many milliseconds apart. `pieceBytes` null: each piece as it is written, where nobody
 * knows how much there will be. `waitsFirst`: the first piece comes after a gap, too, as bytes of a rate do.
 */
export interface PacePlan {
  readonly pieceBytes: number | null;
  readonly gapMs: number;
  readonly waitsFirst: boolean;
}

/** The plan for a body of so many bytes; null: of as many as there will be. */
export type CompiledPace = (bodyBytes: number | null) => PacePlan;

/** Pieces of a rate are this far apart: often enough to be even, seldom enough to cost nothing. */
const TICK_MS = 20;

export function compilePace(definition: PaceDefinition): CompiledPace {
  if (typeof definition === 'string') {
    const rate = parseRate(definition) ?? 1;
    const pieceBytes = Math.max(1, Math.round((rate * TICK_MS) / MS_PER_SECOND));
    const plan = { pieceBytes, gapMs: (pieceBytes / rate) * MS_PER_SECOND, waitsFirst: true };
    return () => plan;
  }
  const { pieces, gap } = definition;
  const gapMs = parseDuration(gap) ?? 0;
  return (bodyBytes) => ({
    pieceBytes: bodyBytes === null ? null : Math.max(1, Math.ceil(bodyBytes / pieces)),
    gapMs,
    waitsFirst: false,
  });
}

/** Of what length nobody knows, the paces are compared as if it had so many bytes. */
const SUPPOSED_BYTES = 100_000;

/** The plan by which a body takes longest. */
export function slowestPace(paces: readonly CompiledPace[], bodyBytes: number | null): PacePlan | null {
  let slowest: PacePlan | null = null;
  for (const pace of paces) {
    const plan = pace(bodyBytes);
    if (slowest === null || timeOf(plan, bodyBytes) > timeOf(slowest, bodyBytes)) slowest = plan;
  }
  return slowest;
}

function timeOf({ pieceBytes, gapMs, waitsFirst }: PacePlan, bodyBytes: number | null): number {
  const bytes = bodyBytes ?? SUPPOSED_BYTES;
  const pieces = Math.ceil(bytes / (pieceBytes ?? bytes));
  return (waitsFirst ? pieces : pieces - 1) * gapMs;
}
