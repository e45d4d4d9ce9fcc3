import { describe, expect, test } from 'vitest';
import { draftContract, draftHar, loadService, readHar } from '../src/index.js';
import { fractionAt } from '../src/state/draw.js';
import { caseFor, decide, load } from './support.js';

const OPTIONS = { service: 'odd', origin: null, port: null, level: 'as-heard' } as const;

interface OddEntry {
  readonly url?: string;
  readonly method?: string;
  readonly sent?: string;
  readonly status?: number;
  readonly headers?: readonly { name: string; value: string }[];
  readonly content?: object;
}

function draft(...entries: OddEntry[]) {
  const list = entries.map(
    ({ url = 'http://a/x', method = 'GET', sent, status = 200, headers = [], content = {} }) => ({
      request: { method, url, headers: [], ...(sent === undefined ? {} : { postData: { text: sent } }) },
      response: { status, headers, content },
    }),
  );
  return draftHar(readHar(JSON.stringify({ log: { entries: list } })), OPTIONS);
}

const json = (value: unknown) => ({ mimeType: 'application/json', text: JSON.stringify(value) });

describe('what a HAR may hold', () => {
  test('several cookies joined by line breaks are several headers, each masked', () => {
    const { text } = draft({ headers: [{ name: 'Set-Cookie', value: 'a=s3cret1; Path=/\nb=s3cret2; Path=/' }] });
    expect(text).not.toContain('s3cret');
    expect(decide(load(text), 'GET /x')).toMatchObject({
      answer: {
        headers: [
          'set-cookie',
          expect.stringMatching(/^a=[a-z0-9]+; Path=\/$/),
          'set-cookie',
          expect.stringMatching(/^b=/),
        ],
      },
    });
  });

  test('headers that HTTP cannot carry are left out', () => {
    const { text } = draft({
      headers: [
        { name: 'x-good', value: '1' },
        { name: 'x-bad', value: '\u2192 1' },
        { name: 'not a name', value: '1' },
      ],
    });
    expect(decide(load(text), 'GET /x')).toMatchObject({ answer: { headers: ['x-good', '1'] } });
  });

  test.each([
    [{ status: 101 }, 'the status 101 cannot be answered by a case'],
    [{ content: { encoding: 'base64', text: '*no*', mimeType: 'image/x' } }, 'its body is no valid base64'],
    [{ content: { encoding: 'base64', text: '*no*', mimeType: 'text/plain' } }, 'its body is no valid base64'],
  ])('the entry %j is listed as unusable, the rest goes on', (entry, reason) => {
    const { text, unusable } = draft({ url: 'http://a/good' }, { method: 'POST', ...entry });
    expect(unusable).toEqual([{ at: 'log.entries[1]', reason }]);
    expect(load(text).operations).toHaveLength(1);
  });

  test('base64 with line breaks is read', () => {
    const { text } = draft({ content: { encoding: 'base64', text: 'AAE\nC', mimeType: 'application/x' } });
    expect(decide(load(text), 'GET /x')).toMatchObject({ answer: { body: new Uint8Array([0, 1, 2]) } });
  });

  test('an empty value that tells answers apart has a name of its own', () => {
    const { text } = draft({ url: 'http://a/x?q=', content: json(1) }, { url: 'http://a/x?q=b', content: json(2) });
    expect([caseFor(load(text), 'GET /x?q='), caseFor(load(text), 'GET /x?q=b')]).toEqual(['empty', 'b']);
  });

  test('odd names of members and parameters still tell answers apart, or are passed over', () => {
    const post = (sent: object, answer: number) => ({
      method: 'POST',
      sent: JSON.stringify(sent),
      content: json(answer),
    });
    const { text } = draft(
      post({ 'it\'s \\ "odd"\n': 1 }, 1),
      post({ 'it\'s \\ "odd"\n': 2 }, 2),
      { url: 'http://a/y?=1', content: json(1) },
      { url: 'http://a/y?=2', content: json(2) },
    );
    const service = load(text);
    expect(caseFor(service, 'POST /x', { json: { 'it\'s \\ "odd"\n': 2 } })).toBe('2');
  });

  test('whatever stands in names, values and bodies: the draft loads', () => {
    let position = 0;
    const below = (count: number): number => Math.floor(fractionAt(41, position++) * count);
    const pieces = [
      '',
      'a',
      ' ',
      '${x}',
      '"',
      "'",
      '\\',
      '\n',
      '#',
      ': ',
      '[0]',
      '{',
      '*',
      '&',
      '!',
      '%',
      '\u00e9',
      '\u2028',
      'null',
      'true',
      '1e3',
      '~',
      '- ',
      '`',
      '$',
    ];
    const odd = (): string => Array.from({ length: below(4) }, () => pieces[below(pieces.length)]).join('');
    for (let round = 0; round < 300; round++) {
      const entry = (): OddEntry => ({
        url: `http://a/${encodeURI(odd())}?${encodeURIComponent(odd())}=${encodeURIComponent(odd())}`,
        method: ['GET', 'POST'][below(2)] ?? 'GET',
        sent: JSON.stringify({ [odd()]: odd(), n: [{ [odd()]: below(3) }] }),
        headers: [
          { name: odd(), value: odd() },
          { name: 'x-odd', value: odd() },
        ],
        content: below(2) === 0 ? json({ [odd()]: odd() }) : { mimeType: 'text/plain', text: odd() },
      });
      const { text } = draft(entry(), entry(), entry(), entry());
      const loaded = loadService(text);
      expect(loaded.kind === 'refused' ? loaded.problems : [], text).toEqual([]);
    }
  });
});

describe('what a contract may hold', () => {
  const contract = (paths: string): string => `openapi: 3.1.0\ninfo: { title: Odd, version: "1" }\npaths:\n${paths}`;
  const named = (name: string, value: string): string =>
    `{ content: { application/json: { examples: { ${name}: { value: ${value} } } } } }`;

  test('examples of the same name in two responses become two cases', () => {
    const { text } = draftContract(
      contract(`  /a: { get: { responses: { "200": ${named('same', '1')}, "404": ${named('same', '2')} } } }\n`),
      { service: null, port: null },
    );
    expect(load(text).operations[0]?.cases.map((item) => item.name)).toEqual(['same 2', 'same']);
  });

  test('two paths of one shape: the second is listed as unusable', () => {
    const ok = '{ responses: { "204": { description: ok } } }';
    const drafted = draftContract(contract(`  /a/{x}: { get: ${ok} }\n  /a/{y}: { get: ${ok} }\n`), {
      service: null,
      port: null,
    });
    expect(drafted.unusable).toEqual([
      { at: '#/paths/~1a~1{y}/get (line 5)', reason: 'GET /a/{x} answers the same paths already' },
    ]);
    expect(load(drafted.text).operations).toHaveLength(1);
  });

  test('a path parameter with a dash is repeated in the answer', () => {
    const schema = '{ type: object, properties: { berth-id: { type: string } } }';
    const { text } = draftContract(
      contract(
        `  /a/{berth-id}: { get: { responses: { "200": { content: { application/json: { schema: ${schema} } } } } } }\n`,
      ),
      { service: null, port: null },
    );
    expect(decide(load(text), 'GET /a/N7')).toMatchObject({ answer: { body: '{"berth-id":"N7"}' } });
  });

  test('an informational response is listed as unusable', () => {
    const drafted = draftContract(
      contract('  /a: { get: { responses: { "100": { description: go on }, "204": { description: ok } } } }\n'),
      { service: null, port: null },
    );
    expect(drafted.unusable).toEqual([
      { at: '#/paths/~1a/get/responses/100 (line 4)', reason: 'the status 100 cannot be answered by a case' },
    ]);
    expect(decide(load(drafted.text), 'GET /a')).toMatchObject({ answer: { status: 204 } });
  });
});
