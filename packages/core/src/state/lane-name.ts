export const LONGEST_LANE_NAME = 128;

/**
 * The lane a call asks for: header `upsetter-lane`, else member `lane` of W3C Baggage; null: it asks for none.
 * Source: https://www.w3.org/TR/baggage/ (members `name=value;properties`, percent-encoded, separated by commas).
 */
export function readLaneName(named: string | null, baggage: string | null): string | null {
  if (named !== null && named !== '') return named.slice(0, LONGEST_LANE_NAME);
  if (baggage === null) return null;
  for (const member of baggage.split(',')) {
    const [pair = ''] = member.split(';');
    const equals = pair.indexOf('=');
    if (equals > 0 && pair.slice(0, equals).trim() === 'lane') return decode(pair.slice(equals + 1).trim()) || null;
  }
  return null;
}

function decode(value: string): string {
  try {
    return decodeURIComponent(value).slice(0, LONGEST_LANE_NAME);
  } catch {
    return value.slice(0, LONGEST_LANE_NAME);
  }
}
