import { CHARACTERS_PER_STEP, type Frame, fail, LONGEST_TEXT } from './frame.js';
import { isEqual, isKey, isMapValue, typeName } from './value.js';

export type Operator = (left: unknown, right: unknown, frame: Frame) => unknown;

/** The binary operators of the dialect that evaluate both sides. One number type: 7 / 2 is 3.5. */
export const OPERATORS: Readonly<Record<string, Operator>> = {
  '==': (a, b) => isEqual(a, b),
  '!=': (a, b) => !isEqual(a, b),
  '<': (a, b) => order(a, b, '<') < 0,
  '<=': (a, b) => order(a, b, '<=') <= 0,
  '>': (a, b) => order(a, b, '>') > 0,
  '>=': (a, b) => order(a, b, '>=') >= 0,
  in: contains,
  '+': add,
  '-': (a, b) => arithmetic(a, b, '-', (x, y) => x - y),
  '*': (a, b) => arithmetic(a, b, '*', (x, y) => x * y),
  '/': (a, b) => arithmetic(a, b, '/', (x, y) => (y === 0 ? fail('division by zero') : x / y)),
  '%': (a, b) => arithmetic(a, b, '%', (x, y) => (y === 0 ? fail('remainder by zero') : x % y)),
};

/** JSON has no number for what is larger than a double holds. */
export function needFinite(value: number): number {
  return Number.isFinite(value) ? value : fail('the result is larger than any number');
}

function isNumber(value: unknown): value is number | bigint {
  return typeof value === 'number' || typeof value === 'bigint';
}

/** Of whole numbers, one of which a double does not hold; null: they are others. */
function exactly(
  a: number | bigint,
  b: number | bigint,
  compute: (x: bigint, y: bigint) => bigint,
): number | bigint | null {
  const isWhole = [a, b].every((own) => typeof own === 'bigint' || Number.isInteger(own));
  if (!isWhole) return null;
  const sum = compute(BigInt(a), BigInt(b));
  return Number.isSafeInteger(Number(sum)) ? Number(sum) : sum;
}

function order(a: unknown, b: unknown, operator: string): number {
  // Longer numbers are in their exact order.
  if (isNumber(a) && isNumber(b) && (typeof a === 'bigint' || typeof b === 'bigint')) return a < b ? -1 : a > b ? 1 : 0;
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  if (typeof a === 'string' && typeof b === 'string') return a < b ? -1 : a > b ? 1 : 0;
  if (typeof a === 'boolean' && typeof b === 'boolean') return Number(a) - Number(b);
  return fail(`${operator} compares two numbers or two texts, not ${typeName(a)} and ${typeName(b)}`);
}

function contains(item: unknown, container: unknown, frame: Frame): boolean {
  if (Array.isArray(container)) {
    frame.spend(container.length);
    return container.some((entry) => isEqual(entry, item));
  }
  if (isMapValue(container)) return isKey(item) && Object.hasOwn(container, String(item));
  return fail(`in looks into a list or a map, not into ${typeName(container)}`);
}

function add(a: unknown, b: unknown, frame: Frame): unknown {
  if (typeof a === 'number' && typeof b === 'number') return needFinite(a + b);
  if (isNumber(a) && isNumber(b)) return exactly(a, b, (x, y) => x + y) ?? needFinite(Number(a) + Number(b));
  if (typeof a === 'string' && typeof b === 'string') {
    const length = a.length + b.length;
    if (length > LONGEST_TEXT) fail(`a text of more than ${LONGEST_TEXT} characters`);
    frame.spend(Math.ceil(length / CHARACTERS_PER_STEP));
    return a + b;
  }
  if (Array.isArray(a) && Array.isArray(b)) {
    frame.spend(a.length + b.length);
    return [...a, ...b];
  }
  return fail(`+ cannot add ${typeName(a)} and ${typeName(b)}; string(x) or number(x) makes them alike`);
}

function arithmetic(a: unknown, b: unknown, operator: string, compute: (x: number, y: number) => number): number {
  if (isNumber(a) && isNumber(b)) return needFinite(compute(Number(a), Number(b)));
  return fail(`${operator} needs two numbers, not ${typeName(a)} and ${typeName(b)}; number(x) makes one of a text`);
}
