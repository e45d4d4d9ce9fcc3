/** Steps into a YAML text: keys of maps; `null`: an item of a list. */
export type YamlPath = readonly (string | null)[];

/** Where a point of a text is, by what stands before it: also where the text cannot be read yet. */
export interface PlaceInYaml {
  /** The map or list around it. */
  readonly path: YamlPath;
  /** The key whose value is written there; null: a key is. */
  readonly key: string | null;
  /** Where the word begins that is written there. */
  readonly from: number;
  /** Other keys of the same map. */
  readonly siblings: ReadonlySet<string>;
}

/** What one line has: dashes and a key, each with its column. */
interface Entry {
  readonly column: number;
  /** Null: the dash of an item. */
  readonly key: string | null;
  /** Whether something stands behind the key on its line. */
  readonly hasValue: boolean;
}

const ENTRY = /^(?:"((?:[^"\\]|\\.)*)"|'((?:[^']|'')*)'|([^\s#&*!|>{}[\],"'`][^#{}[\],]*?))\s*:(?=\s|$)/;

/** The point of a text, as an offset. */
export function placeInYaml(text: string, offset: number): PlaceInYaml {
  const start = text.lastIndexOf('\n', offset - 1) + 1;
  const before = text.slice(start, offset);
  const lines = text.slice(0, start).split('\n').slice(0, -1);
  const flow = readFlow(before);
  if (flow !== null) {
    const path = pathAbove(lines, [...entriesOf(before.slice(0, flow.at))], true);
    const from = offset - (/[^\s,{[:]*$/.exec(before)?.[0].length ?? 0);
    return { path: [...path, ...flow.path], key: flow.key, from, siblings: flow.siblings };
  }
  const entries = entriesOf(before);
  const last = entries.at(-1);
  const from = offset - (/\S*$/.exec(before)?.[0].length ?? 0);
  if (last !== undefined && last.key !== null)
    return {
      path: pathAbove(lines, entries.slice(0, -1), false, last.column),
      key: last.key,
      from,
      siblings: new Set(),
    };
  const column = /^[\s-]*/.exec(before)?.[0].length ?? 0;
  const path = pathAbove(lines, entries, false, column);
  return { path, key: null, from, siblings: siblingsOf(text, lines.length, column, last !== undefined) };
}

/** `- case: held` as a dash and a key. */
function entriesOf(line: string): Entry[] {
  const entries: Entry[] = [];
  let column = /^ */.exec(line)?.[0].length ?? 0;
  for (let dash = /^-(?: +|$)/.exec(line.slice(column)); dash !== null; dash = /^-(?: +|$)/.exec(line.slice(column))) {
    entries.push({ column, key: null, hasValue: true });
    column += dash[0].length;
  }
  const match = ENTRY.exec(line.slice(column));
  if (match === null) return entries;
  const rest = line.slice(column + match[0].length).replace(/\s#.*$/, '');
  return [...entries, { column, key: match[1] ?? match[2] ?? match[3] ?? '', hasValue: rest.trim() !== '' }];
}

/** The maps and lists around a column, from the lines above it; `own`: what stands before it on its own line. */
function pathAbove(
  lines: readonly string[],
  own: readonly Entry[],
  isInValue: boolean,
  column = Number.POSITIVE_INFINITY,
): YamlPath {
  const path: (string | null)[] = [];
  let limit = column;
  // A dash may stand right below the key that its list belongs to.
  let isItem = false;
  const climb = (entries: readonly Entry[], isOwn: boolean): void => {
    for (const entry of [...entries].reverse()) {
      const isAbove = entry.column < limit || (isItem && entry.key !== null && entry.column === limit);
      if (!isAbove || (entry.key !== null && entry.hasValue && !(isOwn && isInValue))) continue;
      path.unshift(entry.key);
      limit = entry.column;
      isItem = entry.key === null;
    }
  };
  climb(own, true);
  for (let i = lines.length - 1; i >= 0 && (limit > 0 || isItem); i--) {
    const line = lines[i] ?? '';
    if (line.trim() !== '' && !line.trimStart().startsWith('#')) climb(entriesOf(line), false);
  }
  return path;
}

/** Keys that stand at the same column, as far as the same map goes; `isFirst`: nothing of it stands above. */
function siblingsOf(text: string, line: number, column: number, isFirst: boolean): ReadonlySet<string> {
  const lines = text.split('\n');
  const found = new Set<string>();
  for (const step of isFirst ? [1] : [-1, 1])
    for (let i = line + step; i >= 0 && i < lines.length; i += step) {
      const own = lines[i] ?? '';
      if (own.trim() === '') continue;
      const entries = entriesOf(own);
      const key = entries.find((entry) => entry.key !== null);
      if (key?.column === column && key.key !== null) found.add(key.key);
      // The first line of an item is the beginning of its map; what is less indented is the end of it.
      const indent = /^ */.exec(own)?.[0].length ?? 0;
      if (indent < column) break;
    }
  return found;
}

interface FlowPlace {
  /** Where the outermost brace stands. */
  readonly at: number;
  readonly path: YamlPath;
  readonly key: string | null;
  readonly siblings: ReadonlySet<string>;
}

/** What of a line is in braces that are not closed; null: nothing is. */
function readFlow(line: string): FlowPlace | null {
  const open: { at: number; isMap: boolean; key: string | null; keys: Set<string>; word: string }[] = [];
  let quote = '';
  for (let i = 0; i < line.length; i++) {
    const c = line[i] ?? '';
    const top = open.at(-1);
    if (quote !== '') {
      if (c === '\\' && quote === '"') i++;
      else if (c === quote) quote = '';
      else if (top !== undefined) top.word += c;
    } else if (c === '"' || c === "'") quote = c;
    else if (c === '#' && /\s/.test(line[i - 1] ?? ' ')) return null;
    else if (c === '{' || c === '[') {
      // `${` and braces in a plain word are text.
      if (open.length === 0 && !/(^|[:\s[-])\s*$/.test(line.slice(0, i))) continue;
      open.push({ at: i, isMap: c === '{', key: null, keys: new Set(), word: '' });
    } else if (c === '}' || c === ']') open.pop();
    else if (top !== undefined && c === ',') {
      top.key = null;
      top.word = '';
    } else if (top?.isMap === true && c === ':' && top.key === null) {
      top.key = top.word.trim();
      top.keys.add(top.key);
      top.word = '';
    } else if (top !== undefined) top.word += c;
  }
  const inner = open.at(-1);
  const outer = open[0];
  if (inner === undefined || outer === undefined) return null;
  const path = open.slice(0, -1).map(({ isMap, key }) => (isMap ? key : null));
  return inner.isMap
    ? { at: outer.at, path, key: inner.key, siblings: inner.keys }
    : { at: outer.at, path: [...path, null], key: '', siblings: new Set() };
}
