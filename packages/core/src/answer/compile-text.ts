import { type PathKey, renderPath } from '../definition/yaml-source.js';
import { AppError } from '../errors/app-error.js';
import type { CompileContext, NamesInScope } from '../expression/compile-context.js';
import { compileExpression } from '../expression/compile-expression.js';
import type { Evaluate, Frame } from '../expression/frame.js';
import { parseTemplate } from '../expression/template.js';
import { toText } from '../expression/value.js';

/** A text of the file, compiled: constant, one expression (which keeps its type), or a mixture (which is a text). */
export type CompiledText =
  | { readonly kind: 'constant'; readonly text: string }
  | { readonly kind: 'value'; readonly evaluate: Evaluate }
  | { readonly kind: 'mixed'; readonly evaluate: (frame: Frame) => string };

/** What compiling the texts of one case shares: where problems go, the names in its path, the positions of its draws. */
export interface TextScope {
  readonly report: (message: string, path: readonly PathKey[], offset?: number) => void;
  readonly names: NamesInScope;
  readonly takePosition: () => number;
}

export function createTextScope(report: TextScope['report'], names: NamesInScope): TextScope {
  let position = 0;
  return { report, names, takePosition: () => position++ };
}

/** `insert`: how a value becomes part of a text around it. */
export function compileText(
  text: string,
  path: readonly PathKey[],
  scope: TextScope,
  insert: (value: unknown) => string = toText,
): CompiledText {
  const template = parseTemplate(text);
  if (template.kind === 'unterminated') {
    scope.report('this ${ is never closed', path, template.offset);
    return { kind: 'constant', text };
  }
  const parts = template.parts.map((part) => {
    if (part.kind === 'text') return part.text;
    return compileOne(part.expression, part.offset, path, scope);
  });
  const [first] = parts;
  if (parts.length === 1)
    return typeof first === 'string'
      ? { kind: 'constant', text: first }
      : { kind: 'value', evaluate: first as Evaluate };
  return { kind: 'mixed', evaluate: (frame) => joinParts(parts, frame, insert) };
}

/** A text that is an expression as a whole, without `${` around it. */
export function compileBareExpression(expression: string, path: readonly PathKey[], scope: TextScope): Evaluate {
  return compileOne(expression, 0, path, scope);
}

function compileOne(expression: string, offset: number, path: readonly PathKey[], scope: TextScope): Evaluate {
  const context: CompileContext = {
    names: scope.names,
    takePosition: scope.takePosition,
    locals: [],
    report: (message, at) => scope.report(message, path, offset + at),
  };
  return explainFailures(compileExpression(expression, context), expression, path);
}

function joinParts(parts: readonly (string | Evaluate)[], frame: Frame, insert: (value: unknown) => string): string {
  let text = '';
  for (const part of parts) text += typeof part === 'string' ? part : insert(part(frame));
  return text;
}

/** A failure on a call says which expression failed. */
function explainFailures(evaluate: Evaluate, expression: string, path: readonly PathKey[]): Evaluate {
  return (frame) => {
    try {
      return evaluate(frame);
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error);
      throw new AppError('expression-failed', `\${${expression}} failed: ${reason}`, { at: renderPath(path) }, error);
    }
  };
}
