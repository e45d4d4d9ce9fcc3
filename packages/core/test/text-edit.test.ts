import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from 'vitest';
import { type Document, isMap, isSeq, parse } from 'yaml';
import { editText } from '../src/definition/text-edit.js';

/** Laid out as no library would. */
const OWN = `# Quays of the harbour


upsetter:  1
service: quays        # as the office calls it
operations:
    readQuay:
        on: GET   /quays/{quay}
        cases:
        - case: north
          when: {path quay: {in: [N, NN]}}   # two names
          answer: {status: 200, json: {berths: [1, 2,   3]}}


        # whoever else
        - case: otherwise
          answer:
              status: 404
              headers: { x-list: [a,
                  b] }
              text: |
                  no such   quay
                    [ x ]
variables: {quay:   North}
`;

/** Lines of the one that the other has not. */
const changed = (before: string, after: string): { gone: string[]; come: string[] } => ({
  gone: before.split('\n').filter((line) => !after.split('\n').includes(line)),
  come: after.split('\n').filter((line) => !before.split('\n').includes(line)),
});

describe('an edited text has new lines only where it says something else', () => {
  test.each<[string, (document: Document) => void, { gone: string[]; come: string[] }]>([
    ['nothing', () => {}, { gone: [], come: [] }],
    [
      'a value',
      (document) => document.setIn(['operations', 'readQuay', 'cases', 1, 'answer', 'status'], 410),
      { gone: ['              status: 404'], come: ['              status: 410'] },
    ],
    [
      'a value in braces',
      (document) => document.setIn(['operations', 'readQuay', 'cases', 0, 'answer', 'json', 'berths', 0], 7),
      {
        gone: ['          answer: {status: 200, json: {berths: [1, 2,   3]}}'],
        come: ['          answer: { status: 200, json: { berths: [7, 2, 3] } }'],
      },
    ],
    ['a new key at the end', (document) => document.set('title', 'Quays'), { gone: [], come: ['title: Quays'] }],
    [
      'an item that is gone',
      (document) => document.deleteIn(['operations', 'readQuay', 'cases', 1]),
      { gone: expect.arrayContaining(['        - case: otherwise']) as never, come: [] },
    ],
    [
      'two items the other way round',
      (document) => {
        const cases = document.getIn(['operations', 'readQuay', 'cases']);
        if (isSeq(cases)) cases.items.reverse();
      },
      { gone: [], come: [] },
    ],
    [
      'a new map within',
      (document) =>
        document.setIn(['operations', 'readQuay', 'access'], document.createNode({ key: { header: 'x-key' } })),
      { gone: [], come: ['        access:', '            key:', '                header: x-key'] },
    ],
  ])('%s', (_what, edit, lines) => {
    const edited = editText(OWN, edit);
    expect(changed(OWN, edited)).toEqual(lines);
    const document = parse(editText(OWN, () => {}));
    expect(document).toEqual(parse(OWN));
  });

  test('with the line ends that it has', () => {
    const dos = OWN.replaceAll('\n', '\r\n');
    const edited = editText(dos, (document) => document.set('upsetter', 2));
    expect(edited).toBe(dos.replace('upsetter:  1', 'upsetter: 2'));
  });
});

test('of every file of the demo: each value changed in turn changes its own lines alone, and says what was put', () => {
  const folder = fileURLToPath(new URL('../../demo/files/', import.meta.url));
  const files = readdirSync(folder).filter((name) => name.endsWith('.yaml'));
  expect(files.length).toBeGreaterThan(3);
  for (const name of files) {
    const text = readFileSync(`${folder}${name}`, 'utf8');
    const value: unknown = parse(text, { uniqueKeys: false });
    for (const path of leavesOf(value).filter((_, i) => i % 7 === 0)) {
      const edited = editText(text, (document) => document.setIn(path, 'changed here'));
      const { gone, come } = changed(text, edited);
      expect([name, path, gone.length <= 3, come.length <= 3]).toEqual([name, path, true, true]);
      expect(read(parse(edited), path)).toBe('changed here');
    }
  }
});

type Path = (string | number)[];

function leavesOf(value: unknown, path: Path = []): Path[] {
  if (value === null || typeof value !== 'object') return path.length === 0 ? [] : [path];
  if (Array.isArray(value)) return value.flatMap((own, i) => leavesOf(own, [...path, i]));
  return Object.entries(value).flatMap(([key, own]) => leavesOf(own, [...path, key]));
}

function read(value: unknown, path: Path): unknown {
  return path.reduce<unknown>((own, step) => (own as Record<string, unknown>)[step], value);
}

test('what cannot be kept so is written anew, and says the same', () => {
  const text = 'upsetter: 1\n? service\n: quays\nstate:\n   a: 1\n   b:\n     - 1\n     - 2\n';
  const edited = editText(text, (document) => {
    const state = document.get('state');
    if (isMap(state)) state.set('c', { d: [1] });
  });
  expect(parse(edited)).toEqual({ ...parse(text), state: { a: 1, b: [1, 2], c: { d: [1] } } });
});
