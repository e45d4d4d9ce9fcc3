import { describe, expect, test } from 'vitest';
import { parse } from 'yaml';
import { readAnswers, replaceAnswer, writeServiceFile } from '../src/index.js';
import { load } from './support.js';

const FILE = `# who keeps the lamp
upsetter: 1
service: lighthouse
operations:
  read:
    on: GET /lamp/{id}
    cases:
      # by day
      - case: day # not lit
        answer: { text: dark }
      - case: night
        answer:
          json: { lit: true }
`;

describe('one answer is replaced in its place', () => {
  test('comments and everything else stay', () => {
    const edited = replaceAnswer(FILE, 'read', 'night', 'status: 201\njson: { lit: "${call.path.id}" }\n');
    expect(edited).toContain('# who keeps the lamp');
    expect(edited).toContain('# by day\n      - case: day # not lit\n        answer: { text: dark }');
    expect(readAnswers(edited)('read', 'night')).toBe('status: 201\njson: { lit: "${call.path.id}" }\n');
    expect(load(edited).operations[0]?.cases).toHaveLength(2);
  });

  test('an answer is read as it stands in the file', () => {
    expect(readAnswers(FILE)('read', 'day')).toBe('{ text: dark }\n');
    expect(readAnswers(FILE)('read', 'dusk')).toBeNull();
  });

  test.each([
    ['reed', 'night', 'text: a', /no operation reed/],
    ['read', 'dusk', 'text: a', /read has no case dusk/],
    ['read', 'night', 'text: [', /not valid YAML/],
  ])('%s / %s with %s is refused', (operation, caseName, answer, expected) => {
    expect(() => replaceAnswer(FILE, operation, caseName, answer)).toThrow(expected);
  });
});

test('a written file quotes what our rule wants quoted, and reads back the same', () => {
  const definition = {
    upsetter: 1,
    service: 'a',
    operations: {
      o: {
        on: 'GET /{x}',
        cases: [{ case: 'c', when: { 'json $.list[0]': 'N*' }, answer: { text: '${call.path.x}' } }],
      },
    },
  };
  const text = writeServiceFile(definition, [{ path: ['operations', 'o'], text: 'heard once' }]);
  expect(text).toContain('"json $.list[0]": N*');
  expect(text).toContain('text: "${call.path.x}"');
  expect(text).toContain('  # heard once\n  o:');
  expect(load(text).definition).toEqual(load(JSON.stringify(definition)).definition);
});

const ODD_TEXTS = [
  '',
  ' ',
  ' leading',
  'trailing ',
  'yes',
  'null',
  '~',
  '0x1F',
  '1e3',
  '007',
  '1_000',
  '2026-03-02',
  '.inf',
  '- a',
  '# no comment',
  'a: b',
  'a #b',
  "it's",
  '"quoted"',
  '\\n',
  'tab\there',
  'line\nline',
  'line\n\n\nline\n',
  '  indented\nless',
  '\r\n',
  '*N',
  '&x',
  '!tag',
  '|',
  '>',
  '%',
  '@at',
  '`',
  '{',
  '}',
  '[',
  ']',
  ',',
  '?',
  ':',
  '-',
  '---',
  '...',
  '${x}',
  '$${x}',
  '\u0000',
  '\u0085',
  '\u2028',
  '\ud83d\ude80',
  '\ufeff',
  'ø'.repeat(200),
  'word '.repeat(60),
];

test.each(ODD_TEXTS)('a text reads back as it was written, as value and as key: %j', (odd) => {
  const json = { value: odd, list: [odd, [odd]], keys: { [odd]: odd, other: 1 } };
  const definition = {
    upsetter: 1,
    service: 'a',
    operations: { o: { on: 'GET /a', cases: [{ case: 'c', answer: { status: 200, json: { deep: { json } } } }] } },
  };
  expect(parse(writeServiceFile(definition), { uniqueKeys: false })).toEqual(definition);
});
