import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { describe, expect, test } from 'vitest';
import { parse } from 'yaml';
import { KEY_HELP } from '../src/definition/schema/key-help.js';
import { PLACES } from '../src/definition/schema/place-help.js';
import { describeServiceFile } from '../src/index.js';
import { parsePlace } from '../src/matching/place.js';
import { serviceOf } from './support.js';

const ROOT = fileURLToPath(new URL('../../../', import.meta.url));
const read = (path: string): string => readFileSync(`${ROOT}${path}`, 'utf8');
const folderOf = (folder: string, ending: string): string[] =>
  readdirSync(`${ROOT}${folder}`).flatMap((name) => (name.endsWith(ending) ? [`${folder}/${name}`] : []));

const written = [
  ...folderOf('docs', '.md').flatMap((path) =>
    [...read(path).matchAll(/^```yaml\n([\s\S]*?)^```/gm)].map(
      ([, text = ''], i) => [`${path} ${i + 1}`, text] as const,
    ),
  ),
  ...folderOf('packages/demo/files', '.yaml').map((path) => [path, read(path)] as const),
].flatMap(([place, text]) => {
  if (/^upsetter: 1/m.test(text)) return [[place, text] as const];
  return text.startsWith('- case:') ? [[place, serviceOf('GET /pilots', text)] as const] : [];
});

const schema = describeServiceFile();
const holds = new Ajv2020({ strict: false, allErrors: true, validateFormats: false }).compile(schema);
const file = (more: string): unknown =>
  parse(`upsetter: 1\nservice: pilot-desk\noperations:\n  readPilot:\n    on: GET /pilots/{pilotId}\n    ${more}`);

test('there are service files to hold against it', () => expect(written.length).toBeGreaterThan(12));

test.each(written)('a service file that is loaded is valid by the JSON Schema: %s', (_place, text) => {
  holds(parse(text));
  expect(holds.errors ?? []).toEqual([]);
});

describe('what is no service file is not valid', () => {
  test.each([
    ['an unknown key of an operation', 'cases: []\n    caes: []'],
    ['a case without an answer', 'cases: [{ case: a }]'],
    ['a comparison with an unknown test', 'cases: [{ case: a, when: { query a: { iss: 1 } }, answer: {} }]'],
    ['a place that is none', 'cases: [{ case: a, when: { qurey a: 1 }, answer: {} }]'],
    ['a place without its name', 'cases: [{ case: a, when: { query: 1 }, answer: {} }]'],
    ['a group that is no list', 'cases: [{ case: a, when: { any: { query a: 1 } }, answer: {} }]'],
    ['an unknown test within a group', 'cases: [{ case: a, when: { any: [{ query a: { iss: 1 } }] }, answer: {} }]'],
    ['a status out of range', 'cases: [{ case: a, answer: { status: 99 } }]'],
    ['an unknown key of a turn', 'cases: [{ case: a, answer: { turns: { list: [{ jsn: 1 }] } } }]'],
    ['a file that is no file beside', 'cases: [{ case: a, answer: { file: chart.png } }]'],
    ['a step that is unknown', 'cases: [{ case: a, answer: {}, then: [{ sett: { a: 1 } }] }]'],
  ])('%s', (_what, more) => expect(holds(file(more))).toBe(false));
});

describe('what a file may hold in the place of a value is valid', () => {
  test.each([
    [
      'bare values as comparisons',
      'cases: [{ case: a, when: { query a: 1, query b: [x], query c: null }, answer: {} }]',
    ],
    ['nested groups', 'cases: [{ case: a, when: { none: [{ any: [{ query a: { not: { is: 1 } } }] }] }, answer: {} }]'],
    [
      'files beside',
      'cases: [{ case: a, answer: { problem: ./gone.json } }, { case: b, answer: { file: ./chart.png } }]',
    ],
    ['a status with an expression', 'cases: [{ case: a, answer: { status: "${200 + 4}", none: true } }]'],
  ])('%s', (_what, more) => {
    holds(file(more));
    expect(holds.errors ?? []).toEqual([]);
  });
});

test('the places of conditions are those that are read', () => {
  const scope = { path: null, text: null, namespaces: {}, at: [] };
  const refused = PLACES.filter(({ place, isNamed }) => {
    const [kind = ''] = place.split(' ');
    // Neither can be asked without a whole file; expressions are no place.
    if (['state', 'row', 'expr'].includes(kind)) return false;
    const name = { json: ' $.a', xml: ' //a' }[kind] ?? (isNamed ? ' a' : '');
    return parsePlace(`${place}${name}`, scope).kind === 'refused';
  });
  expect(refused).toEqual([]);
  const { message = '' } = parsePlace('nothing', scope) as { message?: string };
  const told = [
    ...message.slice(message.indexOf('a place is')).matchAll(/(?:is |, | or )([a-z]+(?: (?:address|certificate))?)/g),
  ].map(([, kind]) => kind);
  expect([...told, 'expr'].sort()).toEqual([...new Set(PLACES.map(({ place }) => place))].sort());
});

test('every key has a sentence, and every sentence a key', () => {
  const missing: string[] = [];
  const told = new Set<string>();
  const visit = (value: unknown): void => {
    if (value === null || typeof value !== 'object') return;
    const { properties, patternProperties, additionalProperties } = value as Record<string, object | false | undefined>;
    // Places are told above.
    if (properties && patternProperties === undefined && additionalProperties === false)
      for (const [key, inner] of Object.entries(properties))
        if (typeof inner.description === 'string') told.add(inner.description);
        else missing.push(key);
    Object.values(value).forEach(visit);
  };
  visit(schema);
  expect(missing).toEqual([]);
  expect([...told].sort()).toEqual([...new Set(Object.values(KEY_HELP).flatMap(Object.values))].sort());
});
