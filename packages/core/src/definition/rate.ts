const UNITS: Readonly<Record<string, number>> = { B: 1, kB: 1_000, MB: 1_000_000 };

/** Bytes a second of a rate such as `20kB/s`; null when the text is none, or is 0. */
export function parseRate(text: string): number | null {
  const match = /^(\d+(?:\.\d+)?)(B|kB|MB)\/s$/.exec(text.trim());
  const rate = match === null ? 0 : Number(match[1]) * (UNITS[match[2] ?? ''] ?? 0);
  return rate > 0 ? rate : null;
}
