import { escapeTemplate } from '../expression/template.js';
import type { ExplainOptions, Instance, Source } from './explain-source.js';

/**
 * A text with values of the call in it: `Berth N7 is taken` -> `Berth ${call.json.berthId} is taken`. Null when no
 * value stands in it the same way in every instance.
 */
export function explainText(
  targets: readonly unknown[],
  instances: readonly Instance[],
  { makes }: Pick<ExplainOptions, 'makes'>,
): string | null {
  const [target] = targets;
  const [first] = instances;
  if (!makes && instances.every(({ sources }) => sources.size === 0)) return null;
  if (
    first === undefined ||
    !targets.every((other) => typeof other === 'string') ||
    (target as string).length > LONGEST
  )
    return null;
  const pieces = splitBySources(target as string, [...first.sources.values()], (source) =>
    instances.every(({ sources }, i) => {
      const value = textOf(sources.get(source.text)?.value);
      return value !== null && findWord(targets[i] as string, value) >= 0;
    }),
  );
  if (pieces.every((piece) => typeof piece === 'string')) return null;
  const holds = instances.every(({ sources }, i) => {
    const rendered = pieces
      .map((piece) => (typeof piece === 'string' ? piece : textOf(sources.get(piece.text)?.value)))
      .join('');
    return rendered === targets[i];
  });
  if (!holds) return null;
  return pieces.map((piece) => (typeof piece === 'string' ? escapeTemplate(piece) : `\${${piece.text}}`)).join('');
}

const LONGEST = 500;

type Piece = string | Source;

/** The text cut at values that stand in it as whole words, longest values first. */
function splitBySources(text: string, sources: readonly Source[], isUsable: (source: Source) => boolean): Piece[] {
  const words = sources
    .map((source) => ({ source, value: textOf(source.value) }))
    .filter(
      (item): item is { source: Source; value: string } =>
        item.value !== null && isTelling(item.value, item.source, text),
    )
    .sort(
      (a, b) =>
        b.value.length - a.value.length ||
        Number(b.source.text.startsWith('call.')) - Number(a.source.text.startsWith('call.')),
    );
  let pieces: Piece[] = [text];
  for (const { source, value } of words) {
    if (!pieces.some((piece) => typeof piece === 'string' && findWord(piece, value) >= 0) || !isUsable(source))
      continue;
    pieces = pieces.flatMap((piece) => (typeof piece === 'string' ? cut(piece, value, source) : [piece]));
  }
  return pieces;
}

function cut(text: string, value: string, source: Source): Piece[] {
  const at = findWord(text, value);
  if (at < 0) return [text];
  const before = text.slice(0, at);
  return [...(before === '' ? [] : [before]), source, ...cut(text.slice(at + value.length), value, source)].filter(
    (piece) => piece !== '',
  );
}

/** Where a value stands as a whole word; -1 when nowhere. */
function findWord(text: string, value: string): number {
  if (value === '') return -1;
  for (let at = text.indexOf(value); at >= 0; at = text.indexOf(value, at + 1)) {
    const before = text[at - 1] ?? ' ';
    const after = text[at + value.length] ?? ' ';
    if (!/[A-Za-z0-9]/.test(before) && !/[A-Za-z0-9]/.test(after)) return at;
  }
  return -1;
}

function textOf(value: unknown): string | null {
  if (typeof value === 'string') return value;
  return typeof value === 'number' ? String(value) : null;
}

/** Long enough, or odd enough, not to stand in a text by chance. A sentence quotes what the path names, however short. */
function isTelling(value: string, source: Source, text: string): boolean {
  if (source.text.startsWith('call.path.') && /\d/.test(value) && text.includes(' ')) return true;
  if (/\d/.test(value)) return value.length >= 2;
  return value.length >= 4 || (value.length >= 3 && /^[A-Z]/.test(value));
}
