import { tests as conformance } from '@bufbuild/cel-spec/testdata/conformance.js';
import { describe, expect, test } from 'vitest';
import { evaluate, mistakes, serviceOf } from './support.js';

/** Source: the conformance suite of CEL (github.com/google/cel-spec), as a registry package ships it. */
interface Suite {
  readonly name: string;
  readonly suites?: readonly Suite[];
  readonly tests?: readonly { readonly original: ConformanceCase }[];
}

interface ConformanceCase {
  readonly name: string;
  readonly expr: string;
  readonly value?: unknown;
  readonly evalError?: unknown;
  readonly bindings?: unknown;
  readonly container?: string;
  readonly typeEnv?: unknown;
}

/** Suites of what the dialect has. */
const CORE = [
  ...['basic', 'comparisons', 'conversions', 'fields', 'fp_math', 'integer_math', 'lists'],
  ...['logic', 'macros', 'parse', 'plumbing', 'string'],
];
/** Suites of what it leaves out: messages of Protocol Buffers, types as values, and extensions with other functions. */
const LEFT_OUT = [
  ...['dynamic', 'enums', 'proto2', 'proto2_ext', 'proto3', 'wrappers', 'namespace', 'type_deductions', 'unknowns'],
  ...[
    'timestamps',
    'optionals',
    'bindings_ext',
    'block_ext',
    'encoders_ext',
    'macros2',
    'math_ext',
    'network_ext',
    'string_ext',
  ],
];

/** Why a case of those suites is not held: every one that is left out falls under one of these. */
const EXCEPTIONS: readonly (readonly [why: string, applies: (own: ConformanceCase) => boolean])[] = [
  [
    'names are those of a service file; there are no others to be bound',
    ({ bindings, typeEnv }) => bindings !== undefined || typeEnv !== undefined,
  ],
  [
    'there are no messages of Protocol Buffers',
    ({ expr, container }) => container !== undefined || /TestAllTypes|google\.protobuf|NullValue/.test(expr),
  ],
  [
    'there are no unsigned numbers and no bytes',
    ({ expr }) => /\d[uU]\b|0x[\da-fA-F]+[uU]|\buint\(|\bbytes\(|\bb['"]|\bB['"]|\brb['"]|\bbr['"]/i.test(expr),
  ],
  [
    'types are no values',
    ({ expr }) => /\btype\(/.test(expr) || /^(int|uint|bool|bytes|list|map|string|double|type|null_type)$/.test(expr),
  ],
  ['dates and durations are texts', ({ expr }) => /\b(timestamp|duration)\(/.test(expr)],
  [
    'there is one number type: whole numbers have the range of a double, a remainder may have decimals',
    ({ expr }) =>
      /\d{16,}|e99\b|e\+307|-\(0\.0\)|e308|e\+308|5000000000|47\.5 %|-0\.0|1e\d\d\d|double\('?-?\w*(NaN|Inf)/i.test(
        expr,
      ),
  ],
  ['dividing by zero is an error', ({ expr }) => /\/ ?0\.0/.test(expr)],
  [
    'what is missing reads as null',
    ({ expr }) =>
      /\]\[3\]|5:3\}\[1\]|\[\]\[|\.b\b|\bno_such|\{.*\}\.|\[dyn\((0\.1|'')\)\]|\[(null|''|""|0\.1|1\.5|0\.5)\]/.test(
        expr,
      ),
  ],
  [
    'keys of maps are texts, also of true and 7; a later one takes the place of the same one before',
    ({ expr }) => /\{ ?(3\.3|null|true:1,false|0:1,0:2)|\{6: 'six'/.test(expr),
  ],
  ['numbers begin with a digit', ({ expr }) => /^\.99/.test(expr)],
  [
    'unknown names and functions are found when the file is saved',
    ({ expr }) => /^a\.\w+\(\) \|\| true|\bf_unknown|^x \|\| true|\bx\b.*\|\|/.test(expr),
  ],
];

const cases = (suite: Suite, path: string): [string, ConformanceCase][] => [
  ...(suite.tests ?? []).map(({ original }): [string, ConformanceCase] => [`${path}/${original.name}`, original]),
  ...(suite.suites ?? []).flatMap((own) => cases(own, `${path}/${own.name}`)),
];
const all = (conformance as unknown as Suite).suites ?? [];
const core = all.filter(({ name }) => CORE.includes(name)).flatMap((suite) => cases(suite, suite.name));
const exceptionFor = (own: ConformanceCase) => EXCEPTIONS.find(([, applies]) => applies(own))?.[0] ?? null;
const held = core.filter(([, own]) => exceptionFor(own) === null);

/** A value of the suite as JSON; undefined: it is of a type that the dialect does not have. */
function toJson(value: unknown): unknown {
  const [[kind = '', own] = []] = Object.entries((value ?? {}) as object) as [string, unknown][];
  switch (kind) {
    case 'nullValue':
      return null;
    case 'int64Value':
    case 'doubleValue':
      return Number(own);
    case 'boolValue':
    case 'stringValue':
      return own;
    case 'listValue':
      return ((own as { values?: unknown[] }).values ?? []).map(toJson);
    case 'mapValue':
      return Object.fromEntries(
        ((own as { entries?: { key: unknown; value: unknown }[] }).entries ?? []).map((entry) => [
          String(toJson(entry.key)),
          toJson(entry.value),
        ]),
      );
    default:
      return undefined;
  }
}

/** What the dialect makes of an expression: its value, or why there is none. */
function evaluated(expr: string): unknown {
  const text = serviceOf('GET /x', `- case: only\n  answer: { json: { value: ${JSON.stringify(`\${${expr}}`)} } }`);
  const [refused] = mistakes(text);
  return refused === undefined ? evaluate(expr) : `failed: ${refused}`;
}

describe('expressions keep to the conformance suite of CEL', () => {
  test('whose suites are all known, and of whose core most cases are held', () => {
    expect(all.map(({ name }) => name).filter((name) => ![...CORE, ...LEFT_OUT].includes(name))).toEqual([]);
    expect(held.length).toBeGreaterThanOrEqual(500);
  });

  test.each(EXCEPTIONS.map(([why]) => [why]))('with an exception that there is a case for: %s', (why) => {
    expect(core.some(([, own]) => exceptionFor(own) === why)).toBe(true);
  });

  test.each(held)('%s', (_name, { expr, value, evalError }) => {
    const got = evaluated(expr);
    if (evalError !== undefined) expect(got).toMatch(/^failed: /);
    else expect(got).toEqual(toJson(value ?? { boolValue: true }));
  });
});
