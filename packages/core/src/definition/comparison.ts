import { z } from 'zod';
import { hasNoMistakes, strictKeys } from './strict-keys.js';

const boundary = z.union([z.number(), z.string()], { error: 'a number or an RFC 3339 date is expected' });
const text = (name: string) => z.string({ error: `\`${name}\` is a text` });

type Boundary = z.output<typeof boundary>;

/** What must hold at a place; all that are given must hold for the same value. A bare value is read as `is`. */
export interface Comparison {
  readonly is?: unknown;
  readonly isnt?: unknown;
  readonly in?: readonly unknown[] | undefined;
  readonly like?: string | undefined;
  readonly regex?: string | undefined;
  readonly starts?: string | undefined;
  readonly ends?: string | undefined;
  readonly has?: unknown;
  readonly size?: Comparison | undefined;
  readonly above?: Boundary | undefined;
  readonly below?: Boundary | undefined;
  readonly from?: Boundary | undefined;
  readonly to?: Boundary | undefined;
  readonly present?: boolean | undefined;
  /** A JSON Schema. */
  readonly fits?: Readonly<Record<string, unknown>> | boolean | undefined;
  readonly not?: Comparison | undefined;
  readonly every?: Comparison | undefined;
  readonly caseless?: boolean | undefined;
}

const nested = z.lazy(() => comparisonSchema);

/** A comparison that is a map. */
export const comparisonTestsSchema = strictKeys('a comparison', {
  is: z.json().optional(),
  isnt: z.json().optional(),
  in: z.array(z.json()).min(1, { error: '`in` needs at least one value' }).optional(),
  like: text('like').optional(),
  regex: text('regex').optional(),
  starts: text('starts').optional(),
  ends: text('ends').optional(),
  has: z.json().optional(),
  size: nested.optional(),
  above: boundary.optional(),
  below: boundary.optional(),
  from: boundary.optional(),
  to: boundary.optional(),
  present: z.boolean({ error: '`present` is true or false' }).optional(),
  fits: z
    .union([z.record(z.string(), z.json()), z.boolean()], {
      error: '`fits` is a JSON Schema, such as { type: object, required: [imo] }',
    })
    .optional(),
  not: nested.optional(),
  every: nested.optional(),
  caseless: z.boolean({ error: '`caseless` is true or false' }).optional(),
}).superRefine((comparison, context) => {
  const tests = Object.keys(comparison).filter((key) => key !== 'caseless');
  if (tests.length === 0 && hasNoMistakes(context))
    context.addIssue({ code: 'custom', message: 'a comparison needs at least one test' });
});

export const comparisonSchema: z.ZodType<Comparison> = z.preprocess(
  (value) => (isBareValue(value) ? { is: value } : value),
  comparisonTestsSchema,
);

function isBareValue(value: unknown): boolean {
  return value === null || typeof value !== 'object' || Array.isArray(value);
}
