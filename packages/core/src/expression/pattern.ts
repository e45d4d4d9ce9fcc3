import { drawAt } from '../state/draw.js';
import { fail } from './frame.js';

/** One piece of a pattern: the characters it may be, and how often it stands. */
interface Piece {
  readonly characters: string;
  readonly least: number;
  readonly most: number;
}

const DIGITS = '0123456789';
const LOWER = 'abcdefghijklmnopqrstuvwxyz';
const UPPER = LOWER.toUpperCase();
const CLASSES: Readonly<Record<string, string>> = { d: DIGITS, w: `${UPPER}${LOWER}${DIGITS}_`, s: ' ' };
const LONGEST = 1_000;
const MOST_CACHED = 200;
const cache = new Map<string, readonly Piece[]>();

/**
 * A text of the shape of a small regular expression: literals, `\d`, `\w`, classes such as `[A-F0-9]`, each with `{n}`,
 * `{n,m}` or `?`. `pattern("[A-Z]{2}\\d{4}")` gives `QX0417`; the same for the same hash and position.
 */
export function drawPattern(pattern: string, hash: number, position: number): string {
  let pieces = cache.get(pattern);
  if (pieces === undefined) {
    pieces = parsePattern(pattern);
    if (cache.size >= MOST_CACHED) cache.clear();
    cache.set(pattern, pieces);
  }
  const own = drawAt(hash, position);
  let draws = 0;
  const below = (count: number): number => drawAt(own, draws++) % count;
  let text = '';
  for (const { characters, least, most } of pieces) {
    const count = least + (most > least ? below(most - least + 1) : 0);
    for (let i = 0; i < count; i++) text += characters[characters.length === 1 ? 0 : below(characters.length)];
  }
  return text;
}

const ITEM = /(\[(?:\\.|[^\]\\])+\]|\\.|[^\\[\]{}?*+|()^$])(\{\d+(?:,\d+)?\}|\?)?/y;

function parsePattern(pattern: string): readonly Piece[] {
  const pieces: Piece[] = [];
  ITEM.lastIndex = 0;
  let length = 0;
  while (ITEM.lastIndex < pattern.length) {
    const at = ITEM.lastIndex;
    const match = ITEM.exec(pattern);
    if (match === null)
      return fail(
        `pattern() cannot draw from ${JSON.stringify(pattern)}: what stands at ${at + 1} is not literal, \\d, \\w or [class], each with {n}, {n,m} or ?`,
      );
    const [least, most] = readCount(match[2]);
    length += most;
    if (most < least || length > LONGEST) fail(`pattern() makes at most ${LONGEST} characters`);
    pieces.push({ characters: charactersOf(match[1] ?? ''), least, most });
  }
  return pieces;
}

function readCount(text: string | undefined): readonly [number, number] {
  if (text === undefined) return [1, 1];
  if (text === '?') return [0, 1];
  const [least = 1, most = least] = text.slice(1, -1).split(',').map(Number);
  return [least, most];
}

function charactersOf(item: string): string {
  if (item.startsWith('\\')) return CLASSES[item[1] ?? ''] ?? item[1] ?? '';
  if (!item.startsWith('[')) return item;
  const inner = item.slice(1, -1).replace(/\\([dw])/g, (_all, name: string) => CLASSES[name] ?? '');
  return inner.replace(/(.)-(.)/g, (_all, from: string, to: string) => rangeOf(from, to));
}

function rangeOf(from: string, to: string): string {
  const start = from.charCodeAt(0);
  const end = to.charCodeAt(0);
  if (end < start) return fail(`[${from}-${to}] runs backwards`);
  return String.fromCharCode(...Array.from({ length: end - start + 1 }, (_, i) => start + i));
}
