import { describeServiceFile } from '@upsetter/core';
import { describe, expect, test } from 'vitest';
import { knownNames } from '../src/editor/schema/known-names.js';
import { placeInYaml } from '../src/editor/schema/place-in-yaml.js';
import { helpFor, offerKeys, offerValues } from '../src/editor/schema/schema-at.js';

const SCHEMA = describeServiceFile();

/** The place of `|` in a text. */
function placeOf(text: string) {
  const offset = text.indexOf('|');
  const { path, key, siblings } = placeInYaml(text.replace('|', ''), offset);
  return { path: path.map((step) => step ?? '*').join('.'), key, siblings: [...siblings].sort().join(',') };
}

const FILE = `upsetter: 1
operations:
  readBerth:
    on: GET /berths/{berthId}
    cases:
      - case: held
        when: { path berthId: "N{7}", query day: { fr| } }
        answer:
          status: 200
          json:
            id: "\${call.path.berthId}"
      - case: otherwise
`;
const at = (line: string) => FILE.replace('fr|', '').concat(line);

describe('the place of a point in a file', () => {
  test.each([
    ['|', '', null, ''],
    ['ups|', '', null, ''],
    [FILE, 'operations.readBerth.cases.*.when.query day', null, ''],
    [at('        a|'), 'operations.readBerth.cases.*', null, 'case'],
    [at('        answer:\n          |'), 'operations.readBerth.cases.*.answer', null, ''],
    [at('        answer: { status: 200, |'), 'operations.readBerth.cases.*.answer', null, 'status'],
    [at('        answer: { status: |'), 'operations.readBerth.cases.*.answer', 'status', 'status'],
    [at('      - |'), 'operations.readBerth.cases.*', null, ''],
    [at('    |'), 'operations.readBerth', null, 'cases,on'],
    [at('  other:\n    |'), 'operations.other', null, ''],
    [at('str|'), '', null, 'operations,upsetter'],
    [at('strays: |'), '', 'strays', ''],
    [at('upsets:\n- upset: fog\n  |'), 'upsets.*', null, 'upset'],
    [at('upsets: [{ upset: fog, |'), 'upsets.*', null, 'upset'],
    [at('upsets: [{ upset: fog, of: [a, |'), 'upsets.*.of.*', '', ''],
    ['state:\n  "held{}": 1\n  |', 'state', null, 'held{}'],
    ['operations:\n  a:\n    # a note: here\n\n    |\n    on: GET /x\nstrays: answer\n', 'operations.a', null, 'on'],
  ])('%j is %s', (text, path, key, siblings) => {
    expect(placeOf(text)).toEqual({ path, key, siblings });
  });
});

describe('what the schema offers there', () => {
  const keys = (...path: (string | null)[]) => offerKeys(SCHEMA, path).map(({ text }) => text);

  test('keys, with a sentence for each', () => {
    expect(keys()).toEqual(expect.arrayContaining(['upsetter', 'service', 'operations', 'resources']));
    expect(keys('operations', 'any', 'cases', null)).toEqual(
      expect.arrayContaining(['case', 'when', 'answer', 'then']),
    );
    expect(keys('operations', 'any', 'cases', null, 'answer', 'turns', 'list', null)).toContain('times');
    expect(keys('operations', 'any', 'cases', null, 'when', 'query day')).toEqual(
      expect.arrayContaining(['from', 'in', 'not']),
    );
    expect(keys('operations', 'any', 'cases', null, 'when', 'any', null)).toEqual(
      keys('operations', 'any', 'cases', null, 'when'),
    );
    expect(keys('operations', 'any', 'cases', null, 'when')).toEqual(
      expect.arrayContaining(['method', 'query ', 'client certificate', 'row', 'row ', 'expr', 'any', 'none']),
    );
    expect(keys('operations', 'any', 'cases', null, 'then', null, 'callback')).toContain('tries');
    expect(keys('listen', 'tls', 'clients')).toEqual(['authority', 'required']);
    for (const { text, help } of offerKeys(SCHEMA, []))
      expect([text, help]).toEqual([text, expect.stringMatching(/\w/)]);
  });

  test('values, where there are some to choose from', () => {
    expect(offerValues(SCHEMA, [], 'strays').map(({ text }) => text)).toEqual(['answer', 'relay', 'record']);
    expect(offerValues(SCHEMA, ['listen'], 'http2').map(({ text }) => text)).toEqual(['true', 'false']);
    expect(offerValues(SCHEMA, ['resources', 'any', 'allow', null], '').map(({ text }) => text)).toContain('merge');
    expect(offerValues(SCHEMA, [], 'title')).toEqual([]);
  });

  test('names that the file knows, behind the beginning of a place', () => {
    const text = at('      - case: wide\n        when: { query size: 1, path size: 2, header x-a: { has: "b: c" } }');
    expect(knownNames(text, 'query ')).toEqual(['day', 'size']);
    expect(knownNames(text, 'path ')).toEqual(['berthId', 'size']);
    expect(knownNames(text, 'header ')).toEqual(['x-a']);
    expect(knownNames(text, 'cookie ')).toEqual([]);
  });

  test('and what a key means', () => {
    expect(helpFor(SCHEMA, ['operations', 'any', 'cases', null, 'when'], 'query day')).toMatch(/query parameter/);
    expect(helpFor(SCHEMA, [], 'strays')).toMatch(/no case answers/);
    expect(helpFor(SCHEMA, ['operations', 'any', 'cases', null, 'answer'], 'serve')).toMatch(/HTTP/);
    expect(helpFor(SCHEMA, ['operations'], 'readBerth')).toBe('');
  });
});
