import { describe, expect, test } from 'vitest';
import { parseDocument } from 'yaml';
import { inlineInto, outlineFrom } from '../src/definition/beside/move-bodies.js';
import { type BesideFiles, loadService } from '../src/index.js';
import { answerJson } from './support.js';

const file = (rows: string, more = '') => `upsetter: 1
service: vessel-register
datasets:
  vessels: { key: imo, rows: ${rows}${more} }
operations:
  listVessels: { on: GET /vessels, cases: [{ case: all, answer: { json: "\${data.vessels}" } }] }
  readVessel:
    on: GET /vessels/{imo}
    row: { of: vessels, where: { imo: "\${call.path.imo}" } }
    cases: [{ case: one, when: { row: { present: true } }, answer: { json: "\${row.name}" } }]
`;
const files = (name: string, content: string): BesideFiles => ({ [name]: { kind: 'text', content } });
const load = (text: string, beside: BesideFiles) => {
  const loaded = loadService(text, beside);
  return loaded.kind === 'loaded' ? loaded.service : loaded.problems.map(({ message }) => message);
};
const rowsOf = (text: string, beside: BesideFiles) => {
  const service = load(text, beside);
  if (Array.isArray(service)) throw new Error(service.join());
  return answerJson(service as never, 'GET /vessels');
};

const CSV =
  '\uFEFFimo,name,length,tug,note\r\n9321483,Petrel,96.5,true,\r\n0074729,"Anna ""Grey"", old",118,False,"two\nlines"\r\n';

describe('rows of a dataset stand in a file', () => {
  test('as CSV: numbers and true/false are such, an empty cell is null, zeros in front are kept', () => {
    expect(rowsOf(file('./vessels.csv'), files('./vessels.csv', CSV))).toEqual([
      { imo: 9321483, name: 'Petrel', length: 96.5, tug: true, note: null },
      { imo: '0074729', name: 'Anna "Grey", old', length: 118, tug: false, note: 'two\nlines' },
    ]);
  });

  test('with types where they are not to be inferred; paths find rows all the same', () => {
    const text = file('./vessels.csv', ', types: { imo: text, note: text, length: text }');
    expect(rowsOf(text, files('./vessels.csv', CSV))).toMatchObject([
      { imo: '9321483', length: '96.5', note: '' },
      { imo: '0074729' },
    ]);
    expect(answerJson(load(file('./vessels.csv'), files('./vessels.csv', CSV)) as never, 'GET /vessels/9321483')).toBe(
      'Petrel',
    );
  });

  test.each([
    ['a;b\n1;2\n', [{ a: 1, b: 2 }]],
    ['a\tb\n1\tx\n\n', [{ a: 1, b: 'x' }]],
    ['a\n123456789012345678\n1e5\n-0.5\n', [{ a: '123456789012345678' }, { a: '1e5' }, { a: -0.5 }]],
  ])('however it is written: %j', (content, rows) => {
    expect(
      rowsOf(
        file('./vessels.csv').replace('key: imo', 'key: a').replace('imo: "$', 'a: "$'),
        files('./vessels.csv', content),
      ),
    ).toEqual(rows);
  });

  test('or with a JSON map on each line', () => {
    expect(rowsOf(file('./v.ndjson'), files('./v.ndjson', '{"imo":1,"name":"a"}\n\n{"imo":2,"name":"b"}\n'))).toEqual([
      { imo: 1, name: 'a' },
      { imo: 2, name: 'b' },
    ]);
  });

  test.each([
    [file('./v.csv'), files('./v.csv', 'imo,name\n1,a,b\n'), './v.csv, row 1: too many fields'],
    [
      file('./v.csv', ', types: { no: text }'),
      files('./v.csv', CSV),
      './v.csv, `types` names no; the columns are imo, name',
    ],
    [file('./v.csv', ', types: { imo: date }'), files('./v.csv', CSV), 'a column is text, number or boolean'],
    [file('./v.ndjson'), files('./v.ndjson', '{"imo":1}\n[1]\n'), './v.ndjson, line 2: a JSON map is expected'],
    [
      file('./v.json', ', types: { imo: text }'),
      files('./v.json', '[]'),
      '`types` says how a CSV file is read; `rows` names none',
    ],
    [file('vessels.csv'), {}, '`rows` is a list of maps, or a file beside: ./vessels.csv'],
  ])('what cannot be read is told: %#', (text, beside, message) => {
    expect(String(load(text, beside))).toContain(message);
  });

  test('and goes back into a file of the same kind when a draft is merged', () => {
    const document = parseDocument(file('./v.csv'));
    const named = inlineInto(document, files('./v.csv', 'imo,name\n1,"a, b"\n'));
    expect(document.toString()).toContain('name: "a, b"');
    expect(outlineFrom(document, named, 'x')).toEqual(files('./v.csv', 'imo,name\n1,"a, b"\n'));
  });
});
