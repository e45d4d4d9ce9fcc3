import type { Evaluate } from './frame.js';
import type { SyntaxNode } from './syntax-node.js';

/** What is wrong with an expression, and how many characters into it. */
export type ReportProblem = (message: string, offset: number) => void;

/** What compiling one expression needs to know and to count. */
export interface CompileContext {
  readonly report: ReportProblem;
  /** Names of the path parameters there are; null when any may come. */
  readonly pathNames: readonly string[] | null;
  /** Gives each draw in a case its own position, in file order. */
  readonly takePosition: () => number;
  /** Loop variables around this place, innermost last: index = slot in `frame.locals`. */
  readonly locals: readonly string[];
}

export type CompileNode = (node: SyntaxNode, context: CompileContext) => Evaluate;
