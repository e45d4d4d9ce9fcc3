/** A number with its noun: `1 case`, `2 cases`. */
export function renderCount(count: number, noun: string): string {
  return `${count} ${noun}${count === 1 ? '' : 's'}`;
}
