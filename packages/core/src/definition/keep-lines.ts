import { diffArrays } from 'diff';

const LONGEST_MS = 500;

/**
 * `edited` with the lines that `plain` has, too, as they stand in `own`. `plain`: what `own` says, as a program writes it;
 * `edited`: the same, changed. Lines that are new stand as far in as what they stand below or beside in `own`; `write`
 * may lay them out.
 */
export function keepOwnLines(own: string, plain: string, edited: string, write: (line: string) => string): string {
  const plainLines = linesOf(plain);
  return keepLines(alignLines(linesOf(own), plainLines), plainLines, linesOf(edited), write);
}

function linesOf(text: string): string[] {
  return text.split('\n');
}

/** Lines of the plain text from `start` to `end` (exclusive), and those of the person's that say the same. */
interface Piece {
  readonly start: number;
  readonly end: number;
  readonly own: readonly string[];
}

/** The person's lines, cut into pieces that go with lines of the plain text: most go one by one. */
function alignLines(own: readonly string[], plain: readonly string[]): readonly Piece[] {
  const pieces: Piece[] = [];
  let ownAt = 0;
  let at = 0;
  let start = 0;
  let others: string[] = [];
  const close = (): void => {
    if (at > start || others.length > 0) pieces.push({ start, end: at, own: others });
    start = at;
    others = [];
  };
  for (const { added, removed, count } of compare(
    own,
    plain,
    (one, other) => withoutBlanks(one) === withoutBlanks(other),
  ))
    if (removed) for (let i = 0; i < count; i++) others.push(own[ownAt++] ?? '');
    else if (added) at += count;
    else
      for (let i = 0; i < count; i++) {
        close();
        at++;
        others.push(own[ownAt++] ?? '');
        close();
      }
  close();
  return pieces;
}

interface Step {
  readonly added: boolean;
  readonly removed: boolean;
  readonly count: number;
}

/** How the lines of one text become those of another; where that takes too long, all of them at once. */
function compare(
  before: readonly string[],
  after: readonly string[],
  comparator = (one: string, other: string): boolean => one === other,
): readonly Step[] {
  return (
    diffArrays([...before], [...after], { comparator, timeout: LONGEST_MS }) ?? [
      { added: false, removed: true, count: before.length },
      { added: true, removed: false, count: after.length },
    ]
  );
}

function withoutBlanks(line: string): string {
  return line.replaceAll(/\s/g, '');
}

/** The edited lines: those that the plain text has, too, as the person wrote them, the others as far in as their neighbours. */
function keepLines(
  pieces: readonly Piece[],
  plain: readonly string[],
  edited: readonly string[],
  write: (line: string) => string,
): string {
  const lines: string[] = [];
  let above: readonly Indents[] = [];
  const known = new Map(
    pieces.flatMap(({ start, end, own }) => (end === start + 1 && own.length === 1 ? [[plain[start], own[0]]] : [])),
  );
  let at = 0;
  let next = 0;
  let editedAt = 0;
  const keep = (piece: Piece): void => {
    lines.push(...piece.own);
    if (piece.end > piece.start) above = stepIn(above, plain[piece.start], piece.own[0]);
    next++;
  };
  const keepUntil = (end: number): void => {
    while (at < end) {
      const piece = pieces[next];
      if (piece !== undefined && piece.start === at && piece.end <= end) {
        keep(piece);
        at = Math.max(at, piece.end);
      } else {
        lines.push(plain[at++] ?? '');
        while ((pieces[next]?.end ?? at) < at) next++;
      }
    }
  };
  for (const { added, removed, count } of compare(plain, edited)) {
    // Lines of the person's that say nothing, such as a second empty one.
    for (let piece = pieces[next]; piece?.start === at && piece.end === at; piece = pieces[next]) keep(piece);
    if (added)
      for (const line of edited.slice(editedAt, editedAt + count)) {
        const own = known.get(line) ?? setIn(write(line), above);
        lines.push(own);
        above = stepIn(above, line, own);
      }
    else if (removed) {
      at += count;
      while ((pieces[next]?.start ?? at) < at) next++;
    } else keepUntil(at + count);
    if (!removed) editedAt += count;
  }
  return lines.join('\n');
}

/** How far in a line stands in the plain text, and in the person's. */
interface Indents {
  readonly plain: number;
  readonly own: number;
}

function indentOf(line = ''): number {
  return line.length - line.trimStart().length;
}

/** What a line stands below or beside, and the line itself; empty ones are nowhere. */
function stepIn(above: readonly Indents[], plain = '', own = ''): readonly Indents[] {
  if (plain.trim() === '') return above;
  const here = { plain: indentOf(plain), own: indentOf(own) };
  return [...above.filter((other) => other.plain < here.plain), here];
}

/** A new line, as far in as what it stands below or beside. */
function setIn(line: string, above: readonly Indents[]): string {
  if (line.trim() === '') return '';
  const indent = indentOf(line);
  const beside = above.findLast(({ plain }) => plain <= indent);
  return beside === undefined
    ? line
    : `${' '.repeat(Math.max(0, indent + beside.own - beside.plain))}${line.trimStart()}`;
}
