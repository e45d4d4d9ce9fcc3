import { fullFormats } from 'ajv-formats/dist/formats.js';
import type { FlatSchema } from './flat-schema.js';

/** Formats that are not known say nothing. */
export function fitsFormat(format: string, value: string): boolean {
  const known = Object.hasOwn(fullFormats, format) ? fullFormats[format as keyof typeof fullFormats] : true;
  if (typeof known === 'boolean') return known;
  if (known instanceof RegExp) return known.test(value);
  if (typeof known === 'function') return known(value) === true;
  const { validate, type } = known as { readonly validate: unknown; readonly type?: string };
  if (type === 'number') return true;
  return validate instanceof RegExp ? validate.test(value) : typeof validate !== 'function' || validate(value) === true;
}

/** Whether a text, number or list that a document gives is within the limits the document sets. Members are not looked at. */
export function isWithin(value: unknown, { limits, patterns, format }: FlatSchema): boolean {
  if (typeof value === 'string') {
    const { minLength = 0, maxLength = Number.POSITIVE_INFINITY } = limits;
    const length = [...value].length;
    return (
      length >= minLength &&
      length <= maxLength &&
      (format === null || fitsFormat(format, value)) &&
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
