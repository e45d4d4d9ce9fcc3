import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { draftContract, draftHar, HarReader, Lanes, readHar } from '../src/index.js';
import { answerJson, caseFor, decide, load } from './support.js';

const FILES = new URL('../../demo/files/', import.meta.url);
const read = (name: string): string => readFileSync(new URL(name, FILES), 'utf8');
const HAR_OPTIONS = { service: 'tide-office', origin: null, port: null, level: 'as-heard' } as const;

interface Heard {
  readonly method?: string;
  readonly url: string;
  readonly sent?: unknown;
  readonly status?: number;
  readonly headers?: Readonly<Record<string, string>>;
  readonly time?: number;
  readonly content?: object;
}

function har(...heard: Heard[]): string {
  const list = (headers: Readonly<Record<string, string>> = {}) =>
    Object.entries(headers).map(([name, value]) => ({ name, value }));
  const entries = heard.map(({ method = 'GET', url, sent, status = 200, headers, content = {}, time }) => ({
    ...(time === undefined ? {} : { time }),
    request: {
      method,
      url,
      headers: list({ authorization: 'Bearer s3cret' }),
      ...(sent === undefined ? {} : { postData: { text: JSON.stringify(sent) } }),
    },
    response: { status, headers: list(headers), content },
  }));
  return JSON.stringify({ log: { entries } });
}

const json = (value: unknown): object => ({ mimeType: 'application/json', text: JSON.stringify(value) });

describe('a draft from a really recorded HAR', () => {
  const draft = draftHar(readHar(read('tide-office.har')), HAR_OPTIONS);
  const service = load(draft.text);
  const entries = (
    JSON.parse(read('tide-office.har')) as {
      log: {
        entries: {
          request: { method: string; url: string; postData?: { text: string } };
          response: { status: number; content: { text?: string; encoding?: string; mimeType: string } };
        }[];
      };
    }
  ).log.entries;
  const heard = entries.filter(({ request }) => request.url.startsWith('http://127.0.0.1:4692'));

  test('has one operation for each method and path heard', () => {
    expect(service.operations.map((operation) => operation.on)).toEqual([
      'GET /ports',
      'GET /tides/{port}',
      'GET /notices',
      'GET /charts/skerry.bin',
      'POST /alarms',
    ]);
  });

  test.each(heard.map((entry) => [`${entry.request.method} ${entry.request.url}`, entry] as const))(
    'answers %s as heard',
    (_name, { request, response }) => {
      const url = new URL(request.url);
      const decision = decide(
        service,
        `${request.method} ${url.pathname}${url.search}`,
        request.postData === undefined ? {} : { body: request.postData.text },
      );
      if (decision.kind !== 'answered') throw new Error(decision.kind);
      expect(decision.answer.status).toBe(response.status);
      const { text = '', encoding, mimeType } = response.content;
      const expected = encoding === 'base64' ? Buffer.from(text, 'base64') : Buffer.from(text);
      const body = Buffer.from(decision.answer.body ?? '');
      if (mimeType.includes('json')) expect(JSON.parse(String(body))).toEqual(JSON.parse(String(expected)));
      else expect(body).toEqual(expected);
    },
  );

  test('holds no secret and nothing hop-by-hop', () => {
    expect(draft.text).not.toMatch(/7f3c9a|board-7d1f0c52|keep-alive|content-length|transfer-encoding/i);
    expect(draft.text).toMatch(/set-cookie: gauge=[\da-z]{6}; Path=\/; HttpOnly/);
  });

  test('says what was left out, and that the same file drafts the same', () => {
    expect(draft.decisions[0]?.evidence).toMatch(/^header authorization \(\d+\), cookie \(\d+\)$/);
    expect(draft.decisions[1]).toMatchObject({
      of: 'draft',
      concluded: expect.stringContaining("left out 3 of a page's own files"),
    });
    expect(draftHar(readHar(read('tide-office.har')), HAR_OPTIONS)).toEqual(draft);
  });
});

describe('drafting from traffic', () => {
  test('tells answers apart by the fewest places of the call', () => {
    const draft = draftHar(
      readHar(
        har(
          { url: 'http://a/x?kind=1&noise=1', content: json('one') },
          { url: 'http://a/x?kind=1&noise=2', content: json('one') },
          { url: 'http://a/x?kind=2&noise=1', content: json('two') },
        ),
      ),
      HAR_OPTIONS,
    );
    expect(draft.text).not.toContain('noise');
    expect([caseFor(load(draft.text), 'GET /x?kind=1&noise=9'), caseFor(load(draft.text), 'GET /x?kind=2')]).toEqual([
      '1',
      '2',
    ]);
  });

  test('what changes by itself, with nothing to count the time from, goes by turns', () => {
    const x = (answer: string) => ({ url: 'http://a/x', content: json(answer) });
    const draft = draftHar(readHar(har(x('before'), x('before'), x('after'))), HAR_OPTIONS);
    const lanes = new Lanes('s');
    const service = load(draft.text);
    const told = Array.from({ length: 5 }, () => answerJson(service, 'GET /x', {}, lanes));
    expect(told).toEqual(['before', 'before', 'after', 'after', 'after']);
    expect(draft.decisions).toContainEqual({
      of: 'readX',
      concluded: 'different answers to the same call, in turns',
      evidence: '2, then 1, with nothing in between',
    });
  });

  test('a text that looks like an expression stays a text', () => {
    const draft = draftHar(readHar(har({ url: 'http://a/x', content: json({ note: 'pay ${amount}' }) })), HAR_OPTIONS);
    expect(decide(load(draft.text), 'GET /x')).toMatchObject({ kind: 'answered' });
    expect(draft.text).toContain('$${amount}');
  });

  test('leaves other origins out, and takes the one that is asked for', () => {
    const text = har({ url: 'http://a/x' }, { url: 'http://a/y' }, { url: 'http://b/z' });
    expect(load(draftHar(readHar(text), HAR_OPTIONS).text).operations.map((operation) => operation.on)).toEqual([
      'GET /x',
      'GET /y',
    ]);
    expect(
      load(draftHar(readHar(text), { ...HAR_OPTIONS, origin: 'http://b' }).text).operations.map(
        (operation) => operation.on,
      ),
    ).toEqual(['GET /z']);
  });

  test('an entry that cannot be used is listed with its index and reason, the rest goes on', () => {
    const text = JSON.parse(har({ url: 'http://a/x' }, { url: 'not a url' }, { url: 'http://a/y', status: 0 })) as {
      log: { entries: unknown[] };
    };
    text.log.entries.push({ request: {} });
    expect(draftHar(readHar(JSON.stringify(text)), HAR_OPTIONS).unusable).toEqual([
      { at: 'log.entries[1]', reason: 'the URL "not a url" is no http or https URL' },
      { at: 'log.entries[2]', reason: 'it has no response (the request was cut off or blocked)' },
      { at: 'log.entries[3]', reason: expect.stringContaining('request.method') },
    ]);
  });

  test('the latency heard is an upset that is calm: its median, and how it is spread where enough was heard', () => {
    const slow = (path: string, ms: number) => ({ url: `http://a/${path}`, content: json('one'), time: ms });
    const calls = [40, 50, 60, 70, 200].map((ms) => slow('often', ms));
    const { text } = draftHar(readHar(har(...calls, slow('once', 30), slow('fast', 1))), HAR_OPTIONS);
    expect(load(text).definition.upsets).toEqual([
      { upset: 'as slow as heard: readOften', of: ['readOften'], delay: { median: '60ms', p95: '200ms' }, calm: true },
      { upset: 'as slow as heard: readOnce', of: ['readOnce'], delay: '30ms', calm: true },
    ]);
  });

  test('a file that breaks off gives what stands before, and says where it broke off', () => {
    const whole = har({ url: 'http://a/x' }, { url: 'http://a/y' });
    const cut = readHar(whole.slice(0, whole.indexOf('http://a/y')));
    expect(cut.exchanges.map(({ path }) => path)).toEqual(['/x']);
    expect(cut.unusable).toEqual([{ at: 'after log.entries[0]', reason: 'not JSON: it is cut off' }]);
    expect(draftHar(cut, HAR_OPTIONS)).toMatchObject({ operations: 1, unusable: cut.unusable });
  });

  test('it is read the same in pieces, wherever they are cut', () => {
    const text = `\ufeff${har({ url: 'http://a/x', content: json({ name: 'Grå "Ærfugl" \u{1f6a2}' }) }, { url: 'no' })}`;
    const bytes = new TextEncoder().encode(text);
    const reader = new HarReader();
    for (const byte of bytes) reader.write(Uint8Array.of(byte));
    expect(reader.end(readHar(text).digest)).toEqual(readHar(text));
    expect(readHar(text).exchanges[0]?.body?.content).toContain('Grå');
  });

  test.each([
    ['{', /the file: not JSON: it is cut off/],
    ['{"log": ]', /not JSON: Unexpected RIGHT_BRACKET/],
    ['', /it has no log.entries, or none in them|cut off/],
    ['{}', /it has no log.entries, or none in them/],
    ['{"log":{"entries":{"a":{}}}}', /it has no log.entries, or none in them/],
    ['{"log":{"entries":[]}}', /nothing in the file can be drafted/],
  ])('%s is refused, saying why', (text, expected) => {
    expect(() => draftHar(readHar(text), HAR_OPTIONS)).toThrow(expected);
  });
});

describe('a draft from a contract', () => {
  const draft = draftContract(read('berth-desk.openapi.yaml'), { service: null, port: null });
  const service = load(draft.text);

  test('has an operation for each of its own, none unusable', () => {
    expect(service.operations.map((operation) => operation.name)).toEqual([
      'logIn',
      'listBerths',
      'listFreeBerths',
      'readBerth',
      'readNeighbours',
      'createBooking',
      'readBooking',
      'releaseBooking',
    ]);
    expect(draft.unusable).toEqual([]);
  });

  test('examples become cases, the first is the fall-back, the others have a condition', () => {
    expect(['/berths/N7', '/berths/S1', '/berths/W9'].map((path) => caseFor(service, `GET ${path}`))).toEqual([
      'deep',
      'shallow',
      'deep',
    ]);
    expect(caseFor(service, 'GET /berths/N7', { headers: { 'upsetter-case': '404' } })).toBe('404');
  });

  test('generated values fit their schema and are the same each time', () => {
    const decision = decide(service, 'POST /bookings', { headers: { authorization: 'Bearer x' } });
    if (decision.kind !== 'answered') throw new Error(decision.kind);
    expect(JSON.parse(new TextDecoder().decode(decision.answer.body as Uint8Array))).toEqual({
      berthId: expect.any(String),
      vessel: { name: 'Petrel', imo: expect.stringMatching(/^\d{7}$/), length: expect.any(Number) },
      notify: expect.stringMatching(/^https:/),
      id: expect.stringMatching(/^[0-9a-f-]{36}$/),
      state: 'requested',
      bookedAt: expect.stringMatching(/^2026-.*Z$/),
    });
    expect(draftContract(read('berth-desk.openapi.yaml'), { service: null, port: null })).toEqual(draft);
  });

  test('a circle of references ends at its first return', () => {
    expect(draft.text.match(/toPort/g)).toBeNull();
    expect(decide(service, 'GET /berths/N7/neighbours').kind).toBe('answered');
  });

  test('a generated answer repeats the id it was asked for', () => {
    expect(decide(service, 'GET /bookings/b-5')).toMatchObject({
      answer: { body: expect.stringContaining('"id":"b-5"') },
    });
  });

  test('a webhook is told with the step that sends it', () => {
    const text = `openapi: 3.1.0
info: { title: T, version: "1" }
paths: {}
webhooks:
  berthFreed:
    post: { requestBody: { content: { application/json: { schema: { type: object, properties: { berthId: { const: N7 } } } } } }, responses: {} }
`;
    const [decision] = draftContract(text, { service: null, port: null }).decisions;
    expect(decision).toEqual({
      of: 'webhook berthFreed',
      concluded:
        'is sent by no operation; a case that leads to it takes this under `then`: {"callback":{"to":"http://127.0.0.1:8080/berthFreed","json":{"berthId":"N7"}}}',
      evidence: '#/webhooks/berthFreed/post (line 6)',
    });
  });

  test('an example that contradicts its own schema is answered as it stands, and told; null is none', () => {
    const text = `openapi: 3.0.3
info: { title: T, version: "1" }
paths:
  /a:
    get:
      responses:
        "200":
          description: ok
          content: { application/json: { schema: { type: object, properties: { at: { type: string, format: date } } }, example: { at: soon } } }
  /b: { get: { responses: { "200": { description: ok, content: { application/json: { schema: { type: object, required: [n], properties: { n: { enum: [7] } } }, example: null } } } } } }
  /c: { get: { responses: { "200": { description: ok, content: { image/png: { schema: { type: string, format: binary } } } } } } }
`;
    const { text: file, decisions } = draftContract(text, { service: null, port: null });
    const told = decisions.map(({ of, concluded }) => `${of}: ${concluded}`);
    expect(told).toContainEqual(
      expect.stringContaining(': the example does not fit its schema: $.at is no date; it is answered as it stands'),
    );
    expect(told).toContainEqual(expect.stringContaining(': 1 case: 1 with a file that stands in'));
    const own = load(file);
    expect(answerJson(own, 'GET /a')).toEqual({ at: 'soon' });
    expect(answerJson(own, 'GET /b')).toEqual({ n: 7 });
    const png = decide(own, 'GET /c');
    expect(png.kind === 'answered' && [...(png.answer.body as Uint8Array).slice(1, 4)]).toEqual([80, 78, 71]);
  });

  test('what cannot be used is listed by pointer and line, the rest works', () => {
    const text =
      'openapi: 3.0.3\ninfo: { title: T, version: "1" }\npaths:\n  /a: { get: { responses: { "200": { $ref: "other.yaml#/x" } } } }\n  /{b}{c}: { get: { responses: {} } }\n  /d: { get: { responses: { "204": { description: ok } } } }\n';
    const broken = draftContract(text, { service: null, port: null });
    expect(broken.unusable).toEqual([
      {
        at: '#/paths/~1a/get/responses/200 (line 4)',
        reason: expect.stringContaining('other.yaml, which was not read'),
      },
      { at: '#/paths/~1{b}{c}/get (line 5)', reason: 'the operation has no responses' },
      { at: '#/paths/~1{b}{c}/get (line 5)', reason: expect.stringContaining('{c}') },
    ]);
    expect(decide(load(broken.text), 'GET /d')).toMatchObject({ answer: { status: 204 } });
  });

  test.each([
    ['swagger: "1.2"', /this one says `swagger: 1.2`/],
    ['openapi: 4.0.0', /an OpenAPI 3.0 or 3.1 or a Swagger 2.0 document is expected/],
    ['- a', /a map is expected/],
    ['a: [', /cannot be read/],
  ])('%s is refused, saying why', (text, expected) => {
    expect(() => draftContract(text, { service: null, port: null })).toThrow(expected);
  });
});
