/** A segment of which parameters take parts: `{berthId}.json`, `{berthId}:free`, `{from}..{to}`. */
export interface MixedSegment {
  readonly kind: 'mixed';
  /** The texts around the parameters, one more than there are names; the first and the last may be empty. */
  readonly texts: readonly string[];
  readonly names: readonly string[];
}

const NAME = String.raw`[A-Za-z_$][\w$:-]*(?:\.[\w$:-]+)*`;
const PARTS = new RegExp(String.raw`\{(${NAME})\}`, 'g');

/** A whole segment that is one parameter, `{name}`, or the tail of a path, `{name...}`. */
export const PARAMETER = new RegExp(String.raw`^\{(${NAME})(\.\.\.)?\}$`);

/** Null: parameters that nothing stands between, or what is none. `decode`: what the texts mean in a path. */
export function parseMixedSegment(part: string, decode: (text: string) => string): MixedSegment | null {
  const texts: string[] = [];
  const names: string[] = [];
  let from = 0;
  for (const match of part.matchAll(PARTS)) {
    texts.push(decode(part.slice(from, match.index)));
    names.push(match[1] ?? '');
    from = match.index + match[0].length;
  }
  texts.push(decode(part.slice(from)));
  const isBroken = texts.some((text, i) => /[{}]/.test(text) || (text === '' && i > 0 && i < names.length));
  return isBroken || names.length === 0 ? null : { kind: 'mixed', texts, names };
}

/** The decoded texts of the parameters, none of them empty, each as short as can be; null: the segment is no such one. */
export function matchMixedSegment({ texts }: MixedSegment, segment: string): string[] | null {
  const last = texts.length - 1;
  const first = texts[0] ?? '';
  const end = segment.length - (texts[last] ?? '').length;
  if (!segment.startsWith(first) || !segment.endsWith(texts[last] ?? '')) return null;
  const values: string[] = [];
  let from = first.length;
  for (let i = 1; i < last; i++) {
    const text = texts[i] ?? '';
    const at = segment.indexOf(text, from + 1);
    if (at < 0 || at + text.length > end) return null;
    values.push(segment.slice(from, at));
    from = at + text.length;
  }
  if (from >= end) return null;
  values.push(segment.slice(from, end));
  return values;
}

/** How much of a segment is written down: more beats less. */
export function weighMixedSegment({ texts }: MixedSegment): number {
  return texts.reduce((sum, text) => sum + text.length, 0);
}

/** `N7.json` of `{berthId}.json`. */
export function fillMixedSegment({ texts, names }: MixedSegment, textOf: (name: string) => string): string {
  return texts.map((text, i) => text + (names[i] === undefined ? '' : textOf(names[i]))).join('');
}
