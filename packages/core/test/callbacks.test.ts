import { createHmac } from 'node:crypto';
import { describe, expect, test } from 'vitest';
import { draftContract } from '../src/index.js';
import { decide, load, mistakes, serviceOf } from './support.js';

const withCallback = (callback: string): string =>
  serviceOf(
    'POST /fire',
    `- case: fired\n  answer: { status: 202, json: { pot: 7 } }\n  then: [{ callback: ${callback} }]`,
  );

/** The callbacks that a call asks for. */
function plan(callback: string, json: unknown = { notify: 'http://127.0.0.1:1/told' }) {
  const decision = decide(load(withCallback(callback)), 'POST /fire', {
    headers: { 'content-type': 'application/json' },
    json,
  });
  return decision.kind === 'answered' ? decision.callbacks : decision;
}

describe('a callback', () => {
  test('is made of the call and of the answer, with the times the file says', () => {
    expect(
      plan(
        '{ to: "${call.json.notify}?pot=${answer.json.pot}", method: PUT, headers: { x-kiln: "${answer.status}" }, json: { pot: "${answer.json.pot}" }, after: 2s, tries: 3, gap: 500ms }',
      ),
    ).toEqual([
      {
        to: 'http://127.0.0.1:1/told?pot=7',
        method: 'PUT',
        headers: ['content-type', 'application/json', 'x-kiln', '202'],
        body: expect.anything(),
        afterMs: 2000,
        tries: 3,
        gapMs: 500,
      },
    ]);
  });

  test('is a POST, at once, tried once, without a body, unless said otherwise', () => {
    expect(plan('{ to: "http://127.0.0.1:1/" }')).toEqual([
      { to: 'http://127.0.0.1:1/', method: 'POST', headers: [], body: null, afterMs: 0, tries: 1, gapMs: 1000 },
    ]);
  });

  test('is none where the call names nobody', () => {
    expect(plan('{ to: "${call.json.notify}" }', {})).toEqual([]);
    expect(plan('{ to: "${omit}" }')).toEqual([]);
  });

  test('may be a form, and signed by a keyed digest of its body or of what is said', () => {
    const signed = (callback: string) => {
      const planned = plan(callback);
      if (!Array.isArray(planned)) throw new Error(JSON.stringify(planned));
      const { body, headers } = planned[0] as { body: unknown; headers: readonly string[] };
      return [body instanceof Uint8Array ? new TextDecoder().decode(body) : body, headers];
    };
    const hex = createHmac('sha256', 'k-1').update('a=1&b=x+y').digest('hex');
    expect(
      signed(
        '{ to: "http://127.0.0.1/", form: { a: 1, b: x y }, sign: { header: x-signature, key: k-1, prefix: "sha256=" } }',
      ),
    ).toEqual(['a=1&b=x+y', ['content-type', 'application/x-www-form-urlencoded', 'x-signature', `sha256=${hex}`]]);
    const over = createHmac('sha1', 'k-1').update('7.N7').digest('base64');
    expect(
      signed(
        '{ to: "http://127.0.0.1/", sign: { header: x-sig, key: k-1, digest: sha1, coding: base64, over: "${3 + 4}.N7" } }',
      ),
    ).toEqual([null, ['x-sig', over]]);
  });

  test('that fails to be made fails the call, and changes nothing', () => {
    expect(plan('{ to: "${call.json.notify + 1}" }')).toMatchObject({ kind: 'failed' });
  });

  test.each([
    ['{}', '`to` is the URL that is called'],
    ['{ to: "http://a/", json: {}, text: a }', 'a callback has one body, here are json and text'],
    ['{ to: "http://a/", gap: 1s }', '`gap` is the time between tries: say how many `tries`'],
    ['{ to: "http://a/", tries: 0 }', '`tries` is a whole number from 1 to 20'],
    ['{ to: "http://a/", after: soon }', 'a duration such as 800ms'],
    ['{ to: "http://a/", method: post }', '`method` is one in capitals'],
    ['{ to: "http://a/", sign: {} }', '`sign` is { header, key }'],
    ['{ to: "http://a/", sign: { header: x, key: k, digest: crc } }', 'sha256'],
    ['{ to: "http://a/", form: {}, text: a }', 'a callback has one body, here are text and form'],
    ['{ too: "http://a/" }', 'did you mean `to`?'],
    ['{ to: "${calll.json.notify}" }', 'did you mean `call`?'],
  ])('%s is refused', (callback, expected) => {
    expect(mistakes(withCallback(callback)).join()).toContain(expected);
  });
});

const CONTRACT = (expression: string): string => `
openapi: 3.1.0
info: { title: Kiln, version: "1" }
paths:
  /firings:
    post:
      operationId: startFiring
      requestBody: { content: { application/json: { schema: { type: object, properties: { notify: { type: string } } } } } }
      responses:
        "201": { description: started, content: { application/json: { schema: { type: object, properties: { id: { type: string } } } } } }
        "400": { description: bad }
      callbacks:
        done:
          ${JSON.stringify(expression)}:
            put:
              requestBody: { content: { application/json: { schema: { type: object, properties: { id: { type: string }, at: { type: string, format: date-time }, state: { const: cooled } } } } } }
              responses: { "204": { description: noted } }
`;

describe('a callback of a contract', () => {
  const callbacksOf = (expression: string) => {
    const draft = draftContract(CONTRACT(expression), { service: null, port: null });
    const cases = load(draft.text).definition.operations['startFiring']?.cases ?? [];
    return { cases, unusable: draft.unusable, callback: cases.at(-1)?.then?.[0]?.callback };
  };

  test.each([
    ['{$request.body#/notify}', '${call.json.notify}'],
    ['{$request.body#/notify}/done?id={$response.body#/id}', '${call.json.notify}/done?id=${answer.json.id}'],
    ['$request.query.tell', '${call.query.tell}'],
    ['{$request.header.X-Tell}', "${call.headers['x-tell']}"],
    [
      'http://127.0.0.1:1/{$method}/{$request.body#/list/0/odd~1name}',
      "http://127.0.0.1:1/${call.method}/${call.json.list[0]['odd/name']}",
    ],
    ['{$response.header.Location}', '${answer.headers.location}'],
  ])('%s is called at %s', (expression, to) => expect(callbacksOf(expression).callback?.to).toBe(to));

  test('follows what goes well, with what the answer has, the time, and what the contract says besides', () => {
    const { cases, callback } = callbacksOf('{$request.body#/notify}');
    expect(cases.map((own) => [own.case, own.then?.length ?? 0])).toEqual([
      ['400', 0],
      ['as documented', 1],
    ]);
    expect(callback).toMatchObject({ method: 'PUT', json: { id: '${answer.json.id}', at: '${now}', state: 'cooled' } });
  });

  test('that cannot be understood is told with its line', () => {
    expect(callbacksOf('{$request.cookie.x}').unusable).toEqual([
      { at: expect.stringMatching(/callbacks\/done.*\(line 15\)/), reason: '{$request.cookie.x} is not understood' },
    ]);
  });
});
