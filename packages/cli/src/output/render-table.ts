import { paint } from './terminal.js';

const GAP = 2;

/** Columns under their heads, each as wide as its widest cell; the last one takes what is left. Colours do not count. */
export function renderTable(heads: readonly string[], rows: readonly (readonly string[])[]): string {
  const widths = heads.map((head, i) =>
    Math.max(visibleLength(head), ...rows.map((row) => visibleLength(row[i] ?? ''))),
  );
  const line = (cells: readonly string[]): string =>
    cells
      .map((cell, i) =>
        i === cells.length - 1 ? cell : cell + ' '.repeat((widths[i] ?? 0) - visibleLength(cell) + GAP),
      )
      .join('')
      .trimEnd();
  return [paint.faint(line(heads)), ...rows.map(line)].join('\n');
}

function visibleLength(text: string): number {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: the escape character begins a colour
  return text.replace(/\u001b\[\d+m/g, '').length;
}
