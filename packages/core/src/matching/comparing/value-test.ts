import type { TextScope } from '../../answer/compile-text.js';
import type { PathKey } from '../../definition/yaml-source.js';
import type { Frame } from '../../expression/frame.js';

/** A test of one value that stands at a place. The frame is there where an expression is compared with. */
export type ValueTest = (value: unknown, frame: Frame | null) => boolean;

/** Text places compare as text, JSON places keep types. */
export type Domain = 'text' | 'json';

/** How expressions in comparisons are compiled: `text` null where none can stand. */
export interface ComparisonScope {
  readonly text: TextScope | null;
  readonly at: readonly PathKey[];
}

/** Why a comparison is none, and where in it. */
export interface Refusal {
  readonly message: string;
  readonly path: readonly PathKey[];
}

export function refuse(message: string, path: readonly PathKey[] = []): Refusal {
  return { message, path };
}

/** All of them; null: there is none. */
export function joinTests(tests: readonly ValueTest[]): ValueTest | null {
  const [first, second] = tests;
  if (first === undefined) return null;
  if (second === undefined) return first;
  return (value, frame) => tests.every((test) => test(value, frame));
}

/** Texts without the difference of capitals and small letters, in whatever they stand. */
export function fold(value: unknown): unknown {
  if (typeof value === 'string') return value.toLowerCase();
  if (value === null || typeof value !== 'object') return value;
  if (Array.isArray(value)) return value.map(fold);
  return Object.fromEntries(Object.entries(value).map(([key, own]) => [key, fold(own)]));
}
