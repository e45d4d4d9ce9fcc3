import { fractionAt } from '../src/state/draw.js';

/** Repeatable choices: the same test fails the same way on every machine. */
export function createChooser(seed: number) {
  let position = 0;
  const fraction = (): number => fractionAt(seed, position++);
  return {
    below: (count: number) => Math.floor(fraction() * count),
    of: <T>(list: readonly T[]): T => list[Math.floor(fraction() * list.length)] as T,
  };
}

export type Chooser = ReturnType<typeof createChooser>;
