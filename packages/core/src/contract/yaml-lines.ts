import { isMap, isNode, isScalar, isSeq } from 'yaml';
import type { YamlSource } from '../definition/yaml-source.js';

/** The 1-based lines of a document's values: of a plain one its own, of a map or list also those of what is in it. Can be sent to other threads. */
export type YamlLines = number | { readonly line: number; readonly members: ReadonlyMap<string, YamlLines> };

/** Much smaller than the syntax tree they are read from. */
export function readYamlLines(source: YamlSource): YamlLines {
  const read = (node: unknown, above: number): YamlLines => {
    const line = isNode(node) && node.range ? source.lineAt(node.range[0]) : above;
    const members = new Map<string, YamlLines>();
    if (isMap(node))
      for (const { key, value } of node.items) if (isScalar(key)) members.set(String(key.value), read(value, line));
    if (isSeq(node)) for (const [i, item] of node.items.entries()) members.set(String(i), read(item, line));
    return members.size === 0 ? line : { line, members };
  };
  return read(source.document.contents, 1);
}

/** The line of a value, or of the nearest thing above it that is there. */
export function lineIn(lines: YamlLines, path: readonly (string | number)[]): number {
  let here = lines;
  for (const key of path) {
    const next = typeof here === 'number' ? undefined : here.members.get(String(key));
    if (next === undefined) break;
    here = next;
  }
  return typeof here === 'number' ? here : here.line;
}
