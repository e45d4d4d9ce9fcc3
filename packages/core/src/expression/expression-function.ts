import type { Frame } from './frame.js';

/** One function of the dialect: how many arguments (a receiver counts as the first), and what it gives. */
export interface ExpressionFunction {
  readonly least: number;
  readonly most: number;
  /** `position` tells draws apart: the place of the call in the file and the turn of the loops around it. */
  readonly call: (args: readonly unknown[], frame: Frame, position: number) => unknown;
}

export function defineFunction(least: number, most: number, call: ExpressionFunction['call']): ExpressionFunction {
  return { least, most, call };
}
