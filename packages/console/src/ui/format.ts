const two = (value: number): string => String(value).padStart(2, '0');

/** Local time of day to the millisecond. */
export function formatTime(at: string): string {
  const time = new Date(at);
  return `${two(time.getHours())}:${two(time.getMinutes())}:${two(time.getSeconds())}.${String(time.getMilliseconds()).padStart(3, '0')}`;
}

/** Local date and time of day to the second. */
export function formatMoment(at: string): string {
  const time = new Date(at);
  return `${time.getFullYear()}-${two(time.getMonth() + 1)}-${two(time.getDate())} ${formatTime(at).slice(0, 8)}`;
}

export function formatMs(ms: number): string {
  return ms >= 1000 ? `${(ms / 1000).toFixed(2)} s` : ms >= 10 ? `${Math.round(ms)} ms` : `${ms.toFixed(1)} ms`;
}

/** `1 exchange`, `2 exchanges`. */
export function formatCount(count: number, what: string): string {
  return `${count} ${what}${count === 1 ? '' : 's'}`;
}
