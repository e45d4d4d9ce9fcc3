/** CEL keeps `let` for itself; the dialect has it as a name. It is parsed under a name of the same length, so that places in the text stay right. */
const STAND_IN = '_lt';

/** `let.x` outside of quotes, as the parser can read it. */
export function maskReserved(expression: string): string {
  if (!expression.includes('let')) return expression;
  return expression.replace(/"(?:\\.|[^"\\])*"|'(?:\\.|[^'\\])*'|(?<![\w.])let\b(?=\s*[.[])/g, (found) =>
    found === 'let' ? STAND_IN : found,
  );
}

/** A name or message of the parser, with the word as it was written. */
export function unmaskReserved(text: string): string {
  return text === STAND_IN ? 'let' : text.replace(/\b_lt\b/g, 'let');
}
