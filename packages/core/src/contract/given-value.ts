import type { FlatSchema } from './flat-schema.js';

const SHAPES: Readonly<Record<string, RegExp>> = {
  uuid: /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i,
  date: /^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$/,
  'date-time': /^\d{4}-\d{2}-\d{2}[Tt ]\d{2}:\d{2}:\d{2}(\.\d+)?([Zz]|[+-]\d{2}:?\d{2})$/,
  email: /^[^\s@]+@[^\s@]+$/,
  ipv4: /^(\d{1,3}\.){3}\d{1,3}$/,
  uri: /^[a-z][a-z0-9+.-]*:\S+$/i,
};

/** Whether a text, number or list that a document gives is within the limits the document sets. Members are not looked at. */
export function isWithin(value: unknown, { limits, patterns, format }: FlatSchema): boolean {
  if (typeof value === 'string') {
    const { minLength = 0, maxLength = Number.POSITIVE_INFINITY } = limits;
    const length = [...value].length;
    return (
      length >= minLength &&
      length <= maxLength &&
      (SHAPES[format ?? '']?.test(value) ?? true) &&
      patterns.every((pattern) => fitsPattern(pattern, value))
    );
  }
  if (typeof value === 'number') {
    const { minimum = Number.NEGATIVE_INFINITY, maximum = Number.POSITIVE_INFINITY, above, below } = limits;
    return (
      value >= minimum &&
      value <= maximum &&
      (above === undefined || value > above) &&
      (below === undefined || value < below)
    );
  }
  if (!Array.isArray(value)) return true;
  return value.length >= (limits.minItems ?? 0) && value.length <= (limits.maxItems ?? Number.POSITIVE_INFINITY);
}

/** As validators read it, by code points where it can be; what is no pattern says nothing. */
export function fitsPattern(pattern: string, text: string): boolean {
  const compiled = compilePattern(pattern);
  return compiled === null || compiled.test(text);
}

export function compilePattern(pattern: string): RegExp | null {
  for (const flags of ['u', '']) {
    try {
      return new RegExp(pattern, flags);
    } catch {}
  }
  return null;
}
