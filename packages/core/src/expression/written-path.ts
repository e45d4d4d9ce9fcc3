import type { SyntaxNode } from './syntax-node.js';

/** A value and a path that is written out in the file, so that it is checked when the file is saved. */
export interface WrittenPath {
  readonly source: SyntaxNode;
  readonly path: string;
  /** Where the path stands. */
  readonly start: number;
}

/** The arguments of a function that reads a value by a path; null: they are others. */
export function readWrittenPath(args: readonly SyntaxNode[]): WrittenPath | null {
  const [source, path] = args;
  if (source === undefined || path?.op !== 'value' || typeof path.args !== 'string' || args.length !== 2) return null;
  return { source, path: path.args, start: path.start };
}
