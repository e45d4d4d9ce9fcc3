/** Names that may follow the beginning of a key, such as `query `: those that other keys of the text have, and parameters of its paths for `path `. */
export function knownNames(text: string, prefix: string): readonly string[] {
  const used = [...text.matchAll(new RegExp(`(?<=^|[\\s{,-])${prefix}([^:{}\\n]*[^:{}\\s])\\s*:(?=\\s|$)`, 'gm'))];
  const params = prefix === 'path ' ? [...text.matchAll(/^\s*on:.*$/gm)].flatMap(([line]) => paramsOf(line)) : [];
  return [...new Set([...params, ...used.map(([, name = '']) => name)])];
}

function paramsOf(line: string): readonly string[] {
  return [...line.matchAll(/\{(\w+)\}/g)].map(([, name = '']) => name);
}
