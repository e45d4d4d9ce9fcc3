/** Gives the 1-based lines of values in a JSON text by the keys that lead to them. What was walked through once is remembered. */
export class JsonLines {
  readonly #text: string;
  /** Where the members of a map or the items of a list stand, by where it opens. */
  readonly #members = new Map<number, ReadonlyMap<string, number>>();
  #breaks: readonly number[] | null = null;

  /** `text`: known to be valid JSON. */
  constructor(text: string) {
    this.#text = text;
  }

  /** The line of a value, or of the nearest thing above it that is there. */
  lineOf(path: readonly (string | number)[]): number {
    let at = skipSpace(this.#text, 0);
    for (const key of path) {
      const next = this.#membersAt(at).get(String(key));
      if (next === undefined) break;
      at = next;
    }
    return this.#lineAt(at);
  }

  #membersAt(open: number): ReadonlyMap<string, number> {
    const known = this.#members.get(open);
    if (known !== undefined) return known;
    const members = findMembers(this.#text, open);
    this.#members.set(open, members);
    return members;
  }

  /** How many line breaks stand before an offset, and one. */
  #lineAt(offset: number): number {
    this.#breaks ??= findBreaks(this.#text);
    let low = 0;
    let high = this.#breaks.length;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if ((this.#breaks[middle] ?? 0) < offset) low = middle + 1;
      else high = middle;
    }
    return low + 1;
  }
}

function findBreaks(text: string): number[] {
  const breaks: number[] = [];
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) breaks.push(at);
  return breaks;
}

function findMembers(text: string, open: number): Map<string, number> {
  const members = new Map<string, number>();
  const isMap = text[open] === '{';
  if (!isMap && text[open] !== '[') return members;
  let at = skipSpace(text, open + 1);
  for (let index = 0; text[at] !== '}' && text[at] !== ']'; index++) {
    let key = String(index);
    if (isMap) {
      const end = skipText(text, at);
      key = JSON.parse(text.slice(at, end)) as string;
      at = skipSpace(text, skipSpace(text, end) + 1);
    }
    members.set(key, at);
    at = skipSpace(text, skipValue(text, at));
    if (text[at] === ',') at = skipSpace(text, at + 1);
  }
  return members;
}

function skipSpace(text: string, from: number): number {
  let at = from;
  for (let c = text.charCodeAt(at); c === 32 || (c >= 9 && c <= 13); c = text.charCodeAt(at)) at++;
  return at;
}

const QUOTE = 34;
const COMMA = 44;
const BACKSLASH = 92;

/** The offset after a text in quotes. */
function skipText(text: string, from: number): number {
  let end = text.indexOf('"', from + 1);
  while (text.charCodeAt(end - 1) === BACKSLASH && isEscaped(text, end)) end = text.indexOf('"', end + 1);
  return end + 1;
}

/** Whether an odd number of backslashes stands before an offset. */
function isEscaped(text: string, at: number): boolean {
  let start = at;
  while (text.charCodeAt(start - 1) === BACKSLASH) start--;
  return (at - start) % 2 === 1;
}

/** The offset after a value. */
function skipValue(text: string, from: number): number {
  let depth = 0;
  for (let at = from; at < text.length; ) {
    const c = text.charCodeAt(at);
    // `{` and `[`, `}` and `]` differ by the bit that tells small letters from capitals.
    const bracket = c | 32;
    if (c === QUOTE) at = skipText(text, at);
    else if (bracket === 123) {
      depth++;
      at++;
      continue;
    } else if (bracket === 125) {
      if (depth === 0) return at;
      depth--;
      at++;
    } else if (c === COMMA && depth === 0) return at;
    else {
      at++;
      continue;
    }
    if (depth === 0 && c !== COMMA) return at;
  }
  return text.length;
}
