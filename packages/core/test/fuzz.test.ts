import { describe, expect, test } from 'vitest';
import { parseDocument } from 'yaml';
import { chooseCase, draftContract, draftHar, explainCall, findOperation, loadService, readHar } from '../src/index.js';
import { createChooser } from './chooser.js';
import { load, makeRequest, serviceOf } from './support.js';

const FILE = `upsetter: 1
service: lighthouse
operations:
  read:
    on: GET /lamps/{id}
    cases:
      - case: lit
        when: { path id: { like: "L*" }, query n: { from: 2, to: 5 }, "json $.list[0]": x }
        answer: { status: 201, headers: { x-a: "\${call.path.id}" }, json: { id: "\${call.path.id + string(size(call.json.list))}" } }
upsets:
  - { upset: slow, delay: 800ms, share: 30% }
`;

const PIECES = [
  '${',
  '}',
  '"',
  "'",
  ': ',
  '\n',
  '  ',
  '- ',
  '[',
  ']',
  '{',
  '*x',
  '&y',
  '!z',
  '#',
  '\\',
  '\u0000',
  '\t',
  '999999999999999999999',
  '__proto__',
  'constructor',
  'null',
  '~',
  '|',
  '>',
  '%',
  'call.',
  '..',
  '$..*',
  '(?<=',
  '\ud800',
];

describe('whatever is sent as a service file', () => {
  test('is loaded, or refused with at least one mistake that has a line', () => {
    const choose = createChooser(7);
    for (let round = 0; round < 1500; round++) {
      let text = FILE;
      for (let edits = 1 + choose.below(3); edits > 0; edits--) {
        const at = choose.below(text.length);
        const cut = choose.below(4) === 0 ? choose.below(40) : 0;
        text = text.slice(0, at) + choose.of(PIECES) + text.slice(at + cut);
      }
      const loaded = loadService(text);
      if (loaded.kind === 'loaded') continue;
      expect(loaded.problems.length, text).toBeGreaterThan(0);
      for (const problem of loaded.problems) {
        expect(problem.line, text).toBeGreaterThan(0);
        expect(problem.message, text).not.toBe('');
      }
    }
  });

  test('aliases that unfold into billions are refused at once', () => {
    const bomb = [
      'a: &a [x, x, x, x, x, x, x, x, x]',
      ...'bcdefghi'
        .split('')
        .map((name, i) => `${name}: &${name} [${Array.from({ length: 9 }, () => `*${'abcdefgh'[i]}`).join(', ')}]`),
    ].join('\n');
    const loaded = loadService(`upsetter: 1\nservice: bomb\n${bomb}\n`);
    expect(loaded).toMatchObject({
      kind: 'refused',
      problems: expect.arrayContaining([expect.objectContaining({ message: expect.stringContaining('YAML') })]),
    });
  });

  test('a file that is nested thousands deep is refused or loaded, and does not end the process', () => {
    const deep = `${'['.repeat(3_000)}${']'.repeat(3_000)}`;
    expect(() => loadService(serviceOf('GET /a', `- case: a\n  answer: { json: ${deep} }`))).not.toThrow();
  });
});

describe('whatever is called', () => {
  const service = load(FILE);
  test('is answered or explained, never thrown at', () => {
    const choose = createChooser(11);
    const parts = [
      '/lamps',
      '/',
      'L1',
      '%2F',
      '%',
      '%zz',
      '..',
      '?',
      '&',
      'n=3',
      'n=%F0',
      '=',
      '+',
      '#',
      '\u00e9',
      '//',
      '{id}',
      'a'.repeat(300),
    ];
    for (let round = 0; round < 3000; round++) {
      const target = `/${Array.from({ length: choose.below(6) }, () => choose.of(parts)).join('')}`;
      const request = makeRequest(
        `${choose.of(['GET', 'POST', 'HEAD', 'OPTIONS', 'BREW'])} ${target.replaceAll(' ', '')}`,
        {
          body: choose.of(['', '{', '[]', '{"list":["x"]}', 'null', '"\\ud800"']),
          headers: { [choose.of(['accept', '__proto__', 'cookie'])]: choose.of(['', '*/*', '\u00ff']) },
        },
      );
      const destination = findOperation(service, request);
      if (destination.kind === 'operation') chooseCase(destination.operation, request, null);
      expect(explainCall(service, request, null).summary).not.toBe('');
    }
  });
});

describe('an index of cases answers as trying each in order does', () => {
  test('for cases over several places, in random mixtures', () => {
    const choose = createChooser(23);
    for (let round = 0; round < 40; round++) {
      const cases = Array.from({ length: 4 + choose.below(20) }, (_, i) => {
        const when: Record<string, unknown> = {};
        if (choose.below(4) > 0) when['query a'] = `v${choose.below(5)}`;
        if (choose.below(3) === 0) when['query b'] = choose.of(['x', { like: 'x*' }, 3, { present: false }]);
        if (choose.below(5) === 0) when['json $.c'] = choose.of([1, '1', true, null]);
        return { case: `c${i}`, when, answer: { none: true } };
      });
      const service = load(JSON.stringify({ upsetter: 1, service: 's', operations: { o: { on: '* /x', cases } } }));
      const operation = service.operations[0];
      if (operation === undefined) throw new Error('no operation');
      for (let call = 0; call < 40; call++) {
        const request = makeRequest(
          `POST /x?${choose.of(['', `a=v${choose.below(6)}`, 'a=v1&a=v2'])}&${choose.of(['', 'b=x', 'b=3', 'b=xy'])}`,
          { json: choose.of([{}, { c: 1 }, { c: '1' }, { c: true }, { c: null }]) },
        );
        const plain = chooseCase({ ...operation, index: null }, request, null);
        expect(chooseCase(operation, request, null)?.name, request.target).toBe(plain?.name);
      }
    }
  });
});

describe('whatever is given to be drafted', () => {
  test('a HAR or an OpenAPI document with pieces broken out drafts what is left, or says what is wrong', () => {
    const choose = createChooser(31);
    const har = JSON.stringify({
      log: {
        entries: [
          {
            request: { method: 'GET', url: 'http://a/x?y=1', headers: [{ name: 'a', value: 'b' }] },
            response: { status: 200, headers: [], content: { mimeType: 'application/json', text: '{"a":1}' } },
          },
        ],
      },
    });
    const contract =
      'openapi: 3.1.0\ninfo: { title: T, version: "1" }\npaths:\n  /a/{b}:\n    get: { responses: { "200": { content: { application/json: { schema: { type: object, properties: { c: { $ref: "#/components/schemas/D" } } } } } } } }\ncomponents: { schemas: { D: { type: array, items: { $ref: "#/components/schemas/D" } } } }\n';
    const cut = (text: string): string => {
      const at = choose.below(text.length);
      return text.slice(0, at) + choose.of(['', '"', '}', 'null', ':', '[1]']) + text.slice(at + choose.below(12));
    };
    for (let round = 0; round < 400; round++) {
      for (const draft of [
        () => draftHar(readHar(cut(har)), { service: 's', origin: null, port: null, level: 'as-heard' } as const),
        () => draftContract(cut(contract), { service: 's', port: null }),
      ]) {
        try {
          const { text } = draft();
          expect(parseDocument(text).errors).toEqual([]);
          expect(loadService(text).kind, text).toBe('loaded');
        } catch (error) {
          expect((error as Error).name, String((error as Error).stack)).toBe('AppError');
        }
      }
    }
  });
});
