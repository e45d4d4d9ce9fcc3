/** One piece of a text with expressions in it: constant text, or an expression with its place in the text. */
export type TemplatePart =
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'expression'; readonly expression: string; readonly offset: number };

export type Template =
  | { readonly kind: 'template'; readonly parts: readonly TemplatePart[] }
  | { readonly kind: 'unterminated'; readonly offset: number };

/** Splits a text at its `${...}`. `$${` is a literal `${`; braces and quotes inside an expression are respected. */
export function parseTemplate(text: string): Template {
  const parts: TemplatePart[] = [];
  let constant = '';
  let at = 0;
  while (at < text.length) {
    const open = text.indexOf('${', at);
    if (open < 0) break;
    constant += text.slice(at, open);
    if (text[open - 1] === '$' && open - 1 >= at) {
      constant = `${constant.slice(0, -1)}\${`;
      at = open + 2;
      continue;
    }
    const close = findClose(text, open + 2);
    if (close < 0) return { kind: 'unterminated', offset: open };
    if (constant !== '') parts.push({ kind: 'text', text: constant });
    constant = '';
    parts.push({ kind: 'expression', expression: text.slice(open + 2, close), offset: open + 2 });
    at = close + 1;
  }
  constant += text.slice(at);
  if (constant !== '' || parts.length === 0) parts.push({ kind: 'text', text: constant });
  return { kind: 'template', parts };
}

/** The index of the brace that closes an expression; -1 when none does. */
function findClose(text: string, from: number): number {
  let depth = 0;
  let quote = '';
  for (let i = from; i < text.length; i++) {
    const c = text[i] ?? '';
    if (quote !== '') {
      if (c === '\\') i++;
      else if (text.startsWith(quote, i)) {
        i += quote.length - 1;
        quote = '';
      }
    } else if (c === '"' || c === "'") {
      // Three of them begin a text that ends at the next three.
      quote = text.startsWith(c.repeat(3), i) ? c.repeat(3) : c;
      i += quote.length - 1;
    } else if (c === '{') depth++;
    else if (c === '}' && depth-- === 0) return i;
  }
  return -1;
}

/** A text written so that it reads as itself in a service file. */
export function escapeTemplate(text: string): string {
  // A function, since `$$` in a replacement text would itself mean one `$`.
  return text.replaceAll('${', () => '$${');
}

/** A JSON value whose texts are all written so that they read as themselves; the very value where they do already. */
export function escapeTemplates(value: unknown): unknown {
  if (typeof value === 'string') return value.includes('${') ? escapeTemplate(value) : value;
  if (value === null || typeof value !== 'object' || !hasTemplate(value)) return value;
  if (Array.isArray(value)) return value.map(escapeTemplates);
  return Object.fromEntries(Object.entries(value).map(([key, member]) => [key, escapeTemplates(member)]));
}

function hasTemplate(value: object): boolean {
  return Object.values(value).some((member) =>
    typeof member === 'string'
      ? member.includes('${')
      : member !== null && typeof member === 'object' && hasTemplate(member),
  );
}
