/** What a scalar looks like, whatever it says. `word` and `text` are what people write; the others are what programs make. */
export type ValueShape =
  | 'uuid'
  | 'date-time'
  | 'date'
  | 'number'
  | 'hex'
  | 'token'
  | 'jwt'
  | 'code'
  | 'word'
  | 'text'
  | 'boolean'
  | 'null';

const SHAPES: readonly (readonly [ValueShape, RegExp])[] = [
  ['uuid', /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i],
  ['date-time', /^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}(:\d{2}(\.\d+)?)?(Z|[+-]\d{2}:?\d{2})?$/i],
  ['date', /^\d{4}-\d{2}-\d{2}$/],
  ['number', /^-?\d+(\.\d+)?$/],
  ['jwt', /^eyJ[\w-]+\.[\w-]+\.[\w-]*$/],
  // Letters and a number, as people number things: N7, BK-1042, berth_12.
  ['code', /^(?:[A-Z]{1,5}|[A-Za-z]{1,12}[-_]|[a-uw-z])\d{1,9}$/],
  ['hex', /^(?=[a-f]*\d)(?=\d*[a-f])[0-9a-f]{8,}$/i],
  // Letters and digits mixed, too long to be a word.
  ['token', /^(?=.*\d.*\d)(?=.*[A-Za-z])[\w.~+/=-]{8,}$/],
  ['word', /^[\w-]+$/],
];

export function shapeOf(value: unknown): ValueShape {
  if (value === null || value === undefined) return 'null';
  if (typeof value === 'number') return 'number';
  if (typeof value === 'boolean') return 'boolean';
  const text = String(value);
  return SHAPES.find(([, pattern]) => pattern.test(text))?.[0] ?? 'text';
}

/**
 * The one shape of all; null when they differ. Ids drawn from letters and digits now and then show hardly any of the
 * one or the other: those of one length behind one prefix with a separator are of one kind when any of them shows both.
 */
export function commonShape(values: readonly unknown[]): ValueShape | null {
  const [shape = null, ...others] = new Set(values.map(shapeOf));
  if (others.length === 0) return shape;
  const texts = values.map(String);
  const [kind, ...otherKinds] = new Set(texts.map((text) => `${/^[A-Za-z]+[-_]/.exec(text)?.[0]} ${text.length}`));
  const isDrawn = otherKinds.length === 0 && kind?.startsWith('undefined') === false;
  return isDrawn && texts.some((text) => shapeOf(text) === 'token') ? 'token' : null;
}

/** Shapes that only a program makes: a value of them that was never seen before was made on the spot. */
export function isMadeShape(shape: ValueShape): boolean {
  return shape === 'uuid' || shape === 'hex' || shape === 'token' || shape === 'jwt' || shape === 'date-time';
}

/** Shapes by which paths name things, whether or not the thing was seen elsewhere. */
export function isIdShape(shape: ValueShape): boolean {
  return ['uuid', 'number', 'code', 'hex', 'token', 'date', 'date-time', 'jwt'].includes(shape);
}

const MS_PER_SECOND = 1000;
/** Clocks of the real service and of whoever heard it may differ a little. */
const NEAR_MS = 5 * MS_PER_SECOND;
const SANE_MS = [Date.UTC(2001, 0), Date.UTC(2100, 0)] as const;

/** How a moment is written down: the expression that writes `now` the same way. */
export interface MomentForm {
  readonly expression: (now: string) => string;
  readonly toMs: (value: unknown) => number;
}

const FORMS: readonly (MomentForm & { readonly fits: (value: unknown) => boolean })[] = [
  {
    fits: (value) => typeof value === 'string' && /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}\.\d{3}Z$/.test(value),
    expression: (now) => now,
    toMs: (value) => Date.parse(String(value)),
  },
  {
    fits: (value) => typeof value === 'string' && /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}Z$/.test(value),
    expression: (now) => `${now}.substring(0, 19) + 'Z'`,
    toMs: (value) => Date.parse(String(value)),
  },
  {
    fits: (value) => typeof value === 'string' && shapeOf(value) === 'date-time',
    expression: (now) => now,
    toMs: (value) => Date.parse(String(value)),
  },
  {
    fits: (value) => typeof value === 'number' && value > SANE_MS[0] && value < SANE_MS[1],
    expression: (now) => `round(epoch(${now}) * 1000)`,
    toMs: Number,
  },
  {
    fits: (value) =>
      typeof value === 'number' && value * MS_PER_SECOND > SANE_MS[0] && value * MS_PER_SECOND < SANE_MS[1],
    expression: (now) => `floor(epoch(${now}))`,
    toMs: (value) => Number(value) * MS_PER_SECOND,
  },
];

/** The form of a value that is a moment; null when it is none. */
export function momentForm(value: unknown): MomentForm | null {
  return FORMS.find((form) => form.fits(value)) ?? null;
}

/** Whether a value is a moment within seconds of another. */
export function isMomentNear(value: unknown, atMs: number): boolean {
  const form = momentForm(value);
  return form !== null && Math.abs(form.toMs(value) - atMs) <= NEAR_MS;
}
