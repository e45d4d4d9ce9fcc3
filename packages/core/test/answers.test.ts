import { describe, expect, test } from 'vitest';
import { type RenderedAnswer, renderUpsetAnswer } from '../src/index.js';
import { Lanes } from '../src/state/lane.js';
import { decide, load, makeRequest, serviceOf } from './support.js';

function answer(yaml: string, line = 'GET /lamps/L1?n=3', body?: string): RenderedAnswer {
  const service = load(serviceOf('"* /lamps/{id}"', `- case: only\n  answer: ${yaml}`));
  const decision = decide(service, line, body === undefined ? {} : { body });
  if (decision.kind !== 'answered') throw new Error(JSON.stringify(decision));
  return decision.answer;
}

const bodyOf = ({ body }: RenderedAnswer): string | null =>
  body === null || typeof body === 'string' ? body : new TextDecoder().decode(body);

describe('each form has its status, content type and body', () => {
  test.each<[string, number, string[], string | null]>([
    ['{ json: { a: [1, null, true] } }', 200, ['content-type', 'application/json'], '{"a":[1,null,true]}'],
    ['{ json: null }', 200, ['content-type', 'application/json'], 'null'],
    ['{ json: "${call.query.n}" }', 200, ['content-type', 'application/json'], '"3"'],
    ['{ json: "${number(call.query.n)}" }', 200, ['content-type', 'application/json'], '3'],
    ['{ text: hello }', 200, ['content-type', 'text/plain; charset=utf-8'], 'hello'],
    ['{ text: "" }', 200, ['content-type', 'text/plain; charset=utf-8'], ''],
    [
      '{ status: 404, problem: { title: No such lamp, lamp: L1 } }',
      404,
      ['content-type', 'application/problem+json'],
      '{"status":404,"title":"No such lamp","lamp":"L1"}',
    ],
    [
      '{ status: 409, problem: { status: 400, title: "${call.path.id}" } }',
      409,
      ['content-type', 'application/problem+json'],
      '{"status":400,"title":"L1"}',
    ],
    ['{ base64: aGk= }', 200, ['content-type', 'application/octet-stream'], 'hi'],
    ['{ none: true }', 204, [], null],
    ['{}', 204, [], null],
    ['{ status: 202 }', 202, [], null],
    ['{ headers: { Content-Type: text/csv }, text: "a;b" }', 200, ['Content-Type', 'text/csv'], 'a;b'],
    ['{ headers: { set-cookie: [a=1, "b=${call.path.id}"] } }', 204, ['set-cookie', 'a=1', 'set-cookie', 'b=L1'], null],
    ['{ headers: { x-n: 5, x-on: true } }', 204, ['x-n', '5', 'x-on', 'true'], null],
  ])('%s', (yaml, status, headers, body) => {
    const rendered = answer(yaml);
    expect([rendered.status, rendered.headers, bodyOf(rendered)]).toEqual([status, headers, body]);
  });

  test('an answer without expressions is made once, as bytes', () => {
    const service = load(serviceOf('GET /x', '- case: only\n  answer: { json: { lit: true } }'));
    const [first, second] = [decide(service, 'GET /x'), decide(service, 'GET /x')];
    if (first.kind !== 'answered' || second.kind !== 'answered') throw new Error('not answered');
    expect(first.answer).toBe(second.answer);
    expect(first.answer.body).toBeInstanceOf(Uint8Array);
  });

  test('texts of JSON answers are escaped as JSON, also those from the call', () => {
    const rendered = answer(
      '{ json: { said: "${call.json.said}", whole: "${call.json}", key"s: 1 } }',
      'POST /lamps/L1',
      '{"said":"\\"quoted\\"\\n\\u2028"}',
    );
    expect(JSON.parse(bodyOf(rendered) ?? '')).toEqual({
      said: '"quoted"\n\u2028',
      whole: { said: '"quoted"\n\u2028' },
      'key"s': 1,
    });
  });
});

describe('the answer of an upset', () => {
  const service = load(
    'upsetter: 1\nservice: lamp\noperations: { read: { on: "GET /lamp/{id}", cases: [] } }\nupsets:\n  - { upset: down, answer: { status: 503, headers: { x-asked: "${call.url}" }, json: { id: "${uuid()}" } } }\n  - { upset: slow, delay: 1s }\n',
  );
  const render = (index: number) => {
    const upset = service.upsets[index];
    if (upset === undefined) throw new Error('no upset');
    return renderUpsetAnswer(service, upset, makeRequest('GET /lamp/1'), new Lanes('s').get('main'), 0);
  };

  test('sees the call, and is the same every time', () => {
    expect(render(0)).toMatchObject({
      kind: 'answered',
      answer: { status: 503, headers: ['content-type', 'application/json', 'x-asked', '/lamp/1'] },
    });
    expect(render(0)).toEqual(render(0));
  });

  test('is none when the upset only delays', () => expect(render(1)).toEqual({ kind: 'stray', found: null }));
});
