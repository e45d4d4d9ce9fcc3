import { type Evaluate, type Frame, fail, isSpent } from './frame.js';
import { typeName } from './value.js';

/**
 * `&&` and `||` as CEL has them: where one side decides, the other may even fail.
 * Source: https://github.com/google/cel-spec/blob/master/doc/langdef.md#logical-operators
 */
export function compileLogic(operator: '&&' | '||', a: Evaluate, b: Evaluate): Evaluate {
  const decides = operator === '||';
  return (frame) => {
    let left: boolean;
    try {
      left = needTruth(a(frame), operator);
    } catch (error) {
      if (!isSpent(frame) && b(frame) === decides) return decides;
      throw error;
    }
    return left === decides ? left : needTruth(b(frame), operator);
  };
}

/** Whether all items, or any of them, are so: one that decides it makes up for others that fail. */
export function someTurn(
  items: readonly unknown[],
  turn: (item: unknown, index: number) => unknown,
  decides: boolean,
  name: string,
  frame: Frame,
): boolean {
  let trouble: unknown = null;
  for (const [i, item] of items.entries()) {
    try {
      if (needTruth(turn(item, i), name) === decides) return true;
    } catch (error) {
      if (isSpent(frame)) throw error;
      trouble ??= error;
    }
  }
  if (trouble !== null) throw trouble;
  return false;
}

export function needTruth(value: unknown, operator: string): boolean {
  return typeof value === 'boolean' ? value : fail(`${operator} needs true or false, not ${typeName(value)}`);
}
