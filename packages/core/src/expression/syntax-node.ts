/** A node of the parsed expression, as far as compiling reads it: `args` is what the operator `op` has. */
export interface SyntaxNode {
  readonly op: string;
  readonly args: unknown;
  /** Characters into the expression: of the operator, of the whole node's start and end. */
  readonly pos: number;
  readonly start: number;
  readonly end: number;
  readonly input: string;
}
