import { Document, isMap, isScalar, isSeq, Pair, Scalar, visit } from 'yaml';
import type { PathKey } from './yaml-source.js';

/** Comments for a written file: at each path, the lines that stand above it. */
export type FileComments = readonly { readonly path: readonly PathKey[]; readonly text: string }[];

/** A definition as the YAML a person would write: what needs quotes has them, comments stand above what they speak of. */
export function writeServiceFile(definition: unknown, comments: FileComments = []): string {
  const document = new Document(definition, { aliasDuplicateObjects: false });
  quoteWhereNeeded(document);
  for (const { path, text } of comments) addComment(document, path, text);
  return document.toString({ lineWidth: 0 });
}

/** Quotes every text with `${` and every key with `[`, `{`, `#` or `: `: our rule, so that nobody has to know YAML's. */
export function quoteWhereNeeded(document: Document): void {
  visit(document, {
    Scalar: (key, node) => {
      if (typeof node.value !== 'string') return;
      const needsQuotes = key === 'key' ? /[[{#]|: /.test(node.value) : node.value.includes('${');
      // Lines as they are need no quotes: nothing in them is read. Only line breaks of other kinds would be lost.
      const isBlock = key !== 'key' && /\n./.test(node.value) && !/[\r\u0085\u2028\u2029]/.test(node.value);
      if (needsQuotes) node.type = isBlock ? Scalar.BLOCK_LITERAL : Scalar.QUOTE_DOUBLE;
    },
  });
}

function addComment(document: Document, path: readonly PathKey[], text: string): void {
  const comment = text
    .split('\n')
    .map((line) => ` ${line}`)
    .join('\n');
  if (path.length === 0) {
    document.commentBefore = comment;
    return;
  }
  const parent = path.length === 1 ? document.contents : document.getIn(path.slice(0, -1), true);
  const last = path.at(-1);
  if (isMap(parent)) {
    const pair = parent.items.find((item) => isScalar(item.key) && item.key.value === last);
    if (pair instanceof Pair && isScalar(pair.key)) pair.key.commentBefore = comment;
  } else if (isSeq(parent)) {
    const item = parent.items[Number(last)];
    if (isMap(item)) item.commentBefore = comment;
  }
}
