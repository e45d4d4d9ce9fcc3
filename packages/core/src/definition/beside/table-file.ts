import papa from 'papaparse';
import { isJsonMap, type JsonMap } from '../json-map.js';

/** How a column is read: `text` as it stands, `number` and `boolean` where it is one; others are inferred. */
export type ColumnTypes = Readonly<Record<string, 'text' | 'number' | 'boolean'>>;

export type ReadRows =
  | { readonly kind: 'read'; readonly rows: readonly JsonMap[] }
  | { readonly kind: 'refused'; readonly message: string };

export function isCsv(name: string): boolean {
  return /\.csv$/i.test(name);
}

export function isLines(name: string): boolean {
  return /\.(ndjson|jsonl)$/i.test(name);
}

/** Rows of a CSV file (RFC 4180; comma, semicolon or tab) by its first line. An empty cell is null; numbers and true/false are such. */
export function readCsv(text: string, types: ColumnTypes): ReadRows {
  const { data, errors, meta } = papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ''), {
    header: true,
    skipEmptyLines: 'greedy',
  });
  const [error] = errors.filter(({ code }) => code !== 'UndetectableDelimiter');
  if (error !== undefined)
    return { kind: 'refused', message: `row ${(error.row ?? 0) + 1}: ${error.message.toLowerCase()}` };
  const unknown = Object.keys(types).find((name) => !(meta.fields ?? []).includes(name));
  if (unknown !== undefined)
    return {
      kind: 'refused',
      message: `\`types\` names ${unknown}; the columns are ${(meta.fields ?? []).join(', ')}`,
    };
  const rows = data.map((row) =>
    Object.fromEntries(Object.entries(row).map(([name, cell]) => [name, readCell(cell, types[name])])),
  );
  return { kind: 'read', rows };
}

/** What people mean by digits: no leading zeros, no more of them than a number holds. */
const NUMBER = /^-?(0|[1-9]\d{0,14})(\.\d{1,15})?$/;

function readCell(cell: string, type: ColumnTypes[string] | undefined): unknown {
  if (cell === '') return type === 'text' ? '' : null;
  if (type === 'text') return cell;
  if (type !== 'boolean' && NUMBER.test(cell)) return Number(cell);
  return type !== 'number' && /^(true|false)$/i.test(cell) ? cell.toLowerCase() === 'true' : cell;
}

/** Rows of a file with a JSON map on each line. */
export function readJsonLines(text: string): ReadRows {
  const rows: JsonMap[] = [];
  for (const [i, line] of text.split('\n').entries()) {
    if (line.trim() === '') continue;
    const row = tryParse(line);
    if (!isJsonMap(row)) return { kind: 'refused', message: `line ${i + 1}: a JSON map is expected` };
    rows.push(row);
  }
  return { kind: 'read', rows };
}

function tryParse(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return null;
  }
}

/** Rows as the file of this name has them; null: as JSON. */
export function writeRows(name: string, rows: unknown): string | null {
  if (!Array.isArray(rows)) return null;
  if (isCsv(name)) return `${papa.unparse(rows as object[], { newline: '\n' })}\n`;
  return isLines(name) ? rows.map((row) => `${JSON.stringify(row)}\n`).join('') : null;
}
