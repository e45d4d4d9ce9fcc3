export const MS_PER_SECOND = 1000;
export const MS_PER_MINUTE = 60 * MS_PER_SECOND;
export const MS_PER_HOUR = 60 * MS_PER_MINUTE;
const UNITS: Readonly<Record<string, number>> = { ms: 1, s: MS_PER_SECOND, m: MS_PER_MINUTE, h: MS_PER_HOUR };
const MS_PER_DAY = 24 * MS_PER_HOUR;
const LONGEST_MS = MS_PER_DAY;

/** Milliseconds by which a clock is set: a duration or days (`2d`), `-` before it for back; null when the text is none. */
export function parseShift(text: string): number | null {
  const match = /^(-?)(\d+(?:\.\d+)?)(ms|s|m|h|d)$/.exec(text.trim());
  if (match === null) return null;
  const [, sign, number, unit = ''] = match;
  const ms = Number(number) * (unit === 'd' ? MS_PER_DAY : (UNITS[unit] ?? 0));
  return ms > LONGEST_SHIFT_MS ? null : sign === '-' ? -ms : ms;
}

/** A hundred years. */
const LONGEST_SHIFT_MS = 100 * 366 * MS_PER_DAY;

/** Milliseconds of a duration such as `800ms`, `1.5s`, `2m`, `1h`; null when the text is none, or is over a day. */
export function parseDuration(text: string): number | null {
  const match = /^(\d+(?:\.\d+)?)(ms|s|m|h)$/.exec(text.trim());
  if (match === null) return null;
  const ms = Number(match[1]) * (UNITS[match[2] ?? ''] ?? 0);
  return ms <= LONGEST_MS ? ms : null;
}

/** A duration as people write it, back from milliseconds: 800 -> `800ms`, 1500 -> `1.5s`. */
export function renderDuration(ms: number): string {
  return ms >= MS_PER_SECOND ? `${Number((ms / MS_PER_SECOND).toFixed(3))}s` : `${Number(ms.toFixed(3))}ms`;
}

/** The fraction 0..1 of a share such as `30%`; null when the text is none. */
export function parseShare(text: string): number | null {
  const match = /^(\d+(?:\.\d+)?)%$/.exec(text.trim());
  const share = match === null ? Number.NaN : Number(match[1]) / 100;
  return share >= 0 && share <= 1 ? share : null;
}
