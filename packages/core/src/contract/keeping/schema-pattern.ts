import { tryCompileRegex } from '../../expression/functions.js';

/** Longer texts go to the engine that is linear whatever the pattern. */
const LONGEST_NATIVE = 2_000;
const ENDLESS = /(?<!\\)(?:[*+]|\{\d+,\})/g;
const REPEATED_GROUP = /\)(?:[*+?]|\{)/;

export interface SchemaPattern {
  readonly test: (text: string) => boolean;
  /** By which the validator tells patterns apart. */
  readonly toString: () => string;
}

/**
 * A `pattern` of a schema for texts that callers send: no text can stall the service. Patterns in which nothing can be
 * tried over and over run natively, others by an engine in linear time. What that one cannot read (look-around, back
 * references) runs natively all the same. Fails with a SyntaxError for what is no pattern.
 */
export function createSchemaPattern(source: string, flags: string): SchemaPattern {
  const native = readPattern(source, flags);
  const linear = tryCompileRegex(source);
  if (linear === null) return native;
  const isPlain = !REPEATED_GROUP.test(source) && (source.match(ENDLESS)?.length ?? 0) <= 1;
  return {
    toString: () => `/${source}/${flags}`,
    test: (text) => (isPlain && text.length <= LONGEST_NATIVE ? native.test(text) : linear.matcher(text).find()),
  };
}

export function isSchemaPattern(value: unknown): boolean {
  if (typeof value !== 'string') return false;
  try {
    readPattern(value, 'u');
    return true;
  } catch {
    return false;
  }
}

/** By the letter of Unicode patterns `[\w-.]` is none; documents have it all the same, and it is clear what it means. */
function readPattern(source: string, flags: string): RegExp {
  try {
    return new RegExp(source, flags);
  } catch {
    return new RegExp(source, flags.replace('u', ''));
  }
}
