import { compile } from 'json-p3';
import type { CompileContext, CompileNode } from './compile-context.js';
import type { Evaluate } from './frame.js';
import type { SyntaxNode } from './syntax-node.js';
import { readWrittenPath } from './written-path.js';

const NULL: Evaluate = () => null;
const NODES_PER_STEP = 10;

/**
 * `jsonpath(call.json, '$.cargo[*].kind')`: the value of a path that is singular (`null` for nothing), else the list of what
 * it selects (RFC 9535). The path is written down in the file, so that it is checked when the file is saved.
 */
export function compileJsonPathCall(
  args: readonly SyntaxNode[],
  node: SyntaxNode,
  context: CompileContext,
  compileNode: CompileNode,
): Evaluate {
  const written = readWrittenPath(args);
  if (written === null) {
    context.report("jsonpath() takes a value and a path that is written out: jsonpath(call.json, '$.a')", node.pos);
    return NULL;
  }
  const read = compileNode(written.source, context);
  try {
    const query = compile(written.path);
    const isSingle = query.singularQuery();
    return (frame) => {
      const values = query.query(read(frame) as never).values();
      frame.spend(1 + Math.ceil(values.length / NODES_PER_STEP));
      return isSingle ? (values[0] ?? null) : values;
    };
  } catch (error) {
    context.report(`not a JSONPath (RFC 9535): ${(error as Error).message}`, written.start);
    return NULL;
  }
}
