import { compileXPath } from '../xml/compile-xpath.js';
import { parseXml } from '../xml/parse-xml.js';
import type { CompileContext, CompileNode } from './compile-context.js';
import { type Evaluate, fail } from './frame.js';
import type { SyntaxNode } from './syntax-node.js';
import { typeName } from './value.js';
import { readWrittenPath } from './written-path.js';

const NULL: Evaluate = () => null;

/**
 * `xpath(call.xml, '//m:vessel')`: the text of the one thing that is selected, `null` for nothing, a list for several.
 * The path is written down in the file, so that it is checked when the file is saved.
 */
export function compileXPathCall(
  args: readonly SyntaxNode[],
  node: SyntaxNode,
  context: CompileContext,
  compileNode: CompileNode,
): Evaluate {
  const written = readWrittenPath(args);
  if (written === null) {
    context.report("xpath() takes XML and a path that is written out: xpath(call.xml, '//m:vessel')", node.pos);
    return NULL;
  }
  const compiled = compileXPath(written.path, context.names.namespaces);
  if (compiled.kind === 'refused') {
    context.report(compiled.message, written.start);
    return NULL;
  }
  const read = isCallXml(written.source) ? null : compileNode(written.source, context);
  return (frame) => {
    frame.spend(1);
    const parsed = read === null ? frame.request.xml() : parseValue(read(frame));
    if (parsed === null || parsed.kind === 'broken') return null;
    const texts = compiled.select(parsed.document);
    return texts.length > 1 ? [...texts] : (texts[0] ?? null);
  };
}

function parseValue(value: unknown) {
  if (value === null) return null;
  return parseXml(typeof value === 'string' ? value : fail(`xpath() reads XML in a text, not ${typeName(value)}`));
}

function isCallXml({ op, args }: SyntaxNode): boolean {
  const [target, name] = op === '.' ? (args as [SyntaxNode, string]) : [undefined, ''];
  return name === 'xml' && target?.op === 'id' && target.args === 'call';
}
