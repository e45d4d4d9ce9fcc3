/** The middle value, and the quarter points around it. */
export interface Spread {
  readonly median: number;
  readonly low: number;
  readonly high: number;
}

export function spreadOf(values: readonly number[]): Spread {
  const sorted = [...values].sort((a, b) => a - b);
  const at = (share: number): number => sorted[Math.round((sorted.length - 1) * share)] ?? Number.NaN;
  return { median: at(0.5), low: at(0.25), high: at(0.75) };
}

/** The ratios of two series taken in the same rounds, pair by pair. */
export function pairedRatios(values: readonly number[], reference: readonly number[]): Spread {
  return spreadOf(values.map((value, i) => value / (reference[i] ?? Number.NaN)));
}

export function renderSpread({ median, low, high }: Spread, digits = 2): string {
  return `${median.toFixed(digits)} (${low.toFixed(digits)} to ${high.toFixed(digits)})`;
}
