import { describe, expect, test } from 'vitest';
import {
  type BesideFiles,
  draftTraffic,
  inlineBodies,
  listBeside,
  listFilePatterns,
  loadService,
  mergeDraft,
  requireService,
} from '../src/index.js';
import { exchangeOf } from './exchange-of.js';
import { answerJson, decide } from './support.js';

const FILE = `upsetter: 1
service: desk
datasets:
  berths: { key: id, rows: ./desk/berths.json }
operations:
  listBerths:
    on: GET /berths
    cases:
      - case: usual
        answer: { json: ./desk/list.json }
  readNote:
    on: GET /note
    cases:
      - case: turns
        answer:
          turns:
            list:
              - { text: ./note.txt }
              - { base64: ./mark.bin }
`;
const text = (content: string) => ({ kind: 'text', content }) as const;
const FILES: BesideFiles = {
  './desk/berths.json': text('[{ "id": "N7" }]'),
  './desk/list.json': text('{ "for": "${call.query.port}", "berths": "${data.berths}" }'),
  './note.txt': text('Mind the skerry'),
  './mark.bin': { kind: 'base64', content: 'AAEC' },
};

function problemsOf(file: string, files: BesideFiles) {
  const loaded = loadService(file, files);
  return loaded.kind === 'refused' ? loaded.problems : [];
}

describe('files beside a service file', () => {
  test('hold bodies and rows as if they stood in it, expressions included', () => {
    const loaded = loadService(FILE, FILES);
    if (loaded.kind === 'refused') throw new Error(JSON.stringify(loaded.problems));
    expect(answerJson(loaded.service, 'GET /berths?port=skerry')).toEqual({ for: 'skerry', berths: [{ id: 'N7' }] });
  });

  test('are listed, each once, from what refers to them', () => {
    expect(listBeside(FILE)).toEqual(['./desk/berths.json', './desk/list.json', './note.txt', './mark.bin']);
    expect(listBeside('operations: [')).toEqual([]);
  });

  test.each([
    ['one that is not there', {}, /there is no file \.\/desk\/list\.json beside/, 10],
    ['no JSON', { './desk/list.json': text('{\n  "a": ]') }, /list\.json, line 2, column 8: not JSON/, 10],
    ['no text', { './note.txt': { kind: 'base64', content: '/w==' } as const }, /note\.txt is no UTF-8 text/, 18],
    [
      'an expression that is wrong',
      { './desk/list.json': text('{"a":"${call.nope}"}') },
      /\(in \.\/desk\/list\.json\)/,
      10,
    ],
  ])('%s is told at the line that refers to it', (_what, changed: BesideFiles, message, line) => {
    const files =
      Object.keys(changed).length === 0 ? { ...FILES, './desk/list.json': undefined } : { ...FILES, ...changed };
    const kept = Object.fromEntries(Object.entries(files).filter(([, file]) => file !== undefined)) as BesideFiles;
    expect(problemsOf(FILE, kept)).toEqual([
      expect.objectContaining({ message: expect.stringMatching(message), line }),
    ]);
  });

  test('stay in its folder: a name that leads out is refused and never listed', () => {
    const out = FILE.replace('./note.txt', '../note.txt').replace('./mark.bin', './a/../../mark.bin');
    expect(problemsOf(out, FILES).map(({ message }) => message)).toEqual([
      "../note.txt is outside of the service file's folder: files stand beside it",
      "./a/../../mark.bin is outside of the service file's folder: files stand beside it",
    ]);
    expect(listBeside(out)).toEqual(['./desk/berths.json', './desk/list.json']);
  });

  test('a name with an expression in it, and texts elsewhere, are just texts', () => {
    const other = FILE.replace(
      '{ text: ./note.txt }',
      '{ text: "./${call.query.x}.txt", headers: { location: ./next.json } }',
    );
    expect(listBeside(other)).not.toContain('./next.json');
    expect(loadService(other, FILES).kind).toBe('loaded');
  });
});

describe('large bodies of a draft', () => {
  const rows = (depth: number) => Array.from({ length: 60 }, (_, id) => ({ id, name: `Berth ${id}`, depth }));
  const draftOf = (depth: number, lit = true) =>
    draftTraffic(
      [exchangeOf({ path: '/chart', json: rows(depth) }), exchangeOf({ path: '/lamp', json: { lit }, index: 1 })],
      { service: 'desk', origin: null, port: null, level: 'as-heard' },
    );

  test('go into files of their own, small ones stay, and the draft answers as heard', () => {
    const draft = draftOf(8);
    expect(Object.keys(draft.files)).toEqual(['./desk/readChart.as-heard.json']);
    expect(draft.text).toContain('json: ./desk/readChart.as-heard.json');
    expect(draft.text).toContain('lit: true');
    expect(draft.fidelity).toMatchObject({ exchanges: 2, asHeard: 2 });
    expect(loadService(draft.text, draft.files).kind).toBe('loaded');
  });

  test('put back, are the same service in one file', () => {
    const draft = draftOf(8);
    const inline = inlineBodies(draft);
    expect(listBeside(inline)).toEqual([]);
    const loaded = loadService(inline);
    expect(loaded.kind === 'loaded' && answerJson(loaded.service, 'GET /chart')).toEqual(rows(8));
  });

  test('are merged like any part: drafted anew where nobody edited, kept where someone did', () => {
    const first = draftOf(8);
    const [name = ''] = Object.keys(first.files);
    expect(mergeDraft(first, first)).toMatchObject({ changed: [], kept: [], files: first.files });
    const anew = mergeDraft(first, draftOf(9));
    expect(anew).toMatchObject({ changed: ['readChart / as heard'], files: draftOf(9).files });
    const edited = { ...first, files: { [name]: text(JSON.stringify(rows(7))) } };
    const kept = mergeDraft(edited, draftOf(9));
    expect(kept.conflicts).toEqual(['readChart / as heard']);
    expect(JSON.parse(kept.files[name]?.content ?? '')).toEqual(rows(7));
  });

  test('keep the names a person gave their files', () => {
    const first = draftOf(8);
    const [name = ''] = Object.keys(first.files);
    const renamed = {
      text: first.text.replaceAll(name, './charts/skerry.json'),
      files: { './charts/skerry.json': first.files[name] ?? text('') },
    };
    const merged = mergeDraft(renamed, draftOf(9));
    expect(Object.keys(merged.files)).toEqual(['./charts/skerry.json']);
    expect(JSON.parse(merged.files['./charts/skerry.json']?.content ?? '')).toEqual(rows(9));
  });
});

describe('files that the call names', () => {
  const text = `
upsetter: 1
service: charts
operations:
  read:
    on: GET /charts/{id}
    cases:
      - case: chart
        answer: { file: "./charts/c-\${call.path.id}.txt" }
`;
  const bytes = (content: string) => ({ kind: 'base64' as const, content: btoa(content) });
  const files = {
    './charts/c-N7.txt': bytes('north'),
    './charts/c-.txt': bytes('none'),
    './charts/deep/c-N8.txt': bytes('deep'),
    './other/c-N9.txt': bytes('other'),
    './charts/N7.txt': bytes('no start'),
  };

  test('are those of one folder whose names fit', () => {
    expect(listBeside(text, files).sort()).toEqual(['./charts/c-.txt', './charts/c-N7.txt']);
    expect(listFilePatterns(text)).toEqual([{ folder: './charts/', start: 'c-', end: '.txt' }]);
  });

  test('are answered with by their names; others are told', () => {
    const service = requireService(text, files);
    const answer = decide(service, 'GET /charts/N7');
    expect(answer).toMatchObject({
      kind: 'answered',
      answer: { headers: ['content-type', 'text/plain; charset=utf-8'] },
    });
    expect(decide(service, 'GET /charts/N9')).toMatchObject({
      kind: 'failed',
      reason: 'there is no file ./charts/c-N9.txt beside the service file; there is ./charts/c-N7.txt, ./charts/c-.txt',
    });
    expect(decide(service, 'GET /charts/deep%2Fc-N8')).toMatchObject({ kind: 'failed' });
  });

  test('that are nowhere are a mistake', () => {
    const loaded = loadService(text, {});
    expect(loaded).toMatchObject({
      kind: 'refused',
      problems: [{ line: 9, message: 'no file beside has such a name: ./charts/c-*.txt' }],
    });
  });
});
