import { createHmac } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fileOf, startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

let upsetter: TestUpsetter;
let address: string;

const OPERATIONS = `
readOpen: { on: GET /open, access: open, cases: [{ case: open, answer: { text: open } }] }
readKey: { on: GET /key, cases: [{ case: let in, answer: { text: in }, then: [{ set: { seen: 1 } }] }] }
readSeen: { on: GET /seen, access: open, cases: [{ case: seen, answer: { text: "\${state.seen}" } }] }
readQuery: { on: GET /query, access: { key: { query: token, is: [q1, q2] } }, cases: [{ case: in, answer: { text: in } }] }
readBasic:
  on: GET /basic
  access: { basic: { Una: "pass:word", "Søn": secret }, refuse: { status: 418, json: { no: "\${call.method}" } } }
  cases: [{ case: in, answer: { text: in } }]
readToken: { on: GET /token, access: { bearer: { tokens: t-1 } }, cases: [{ case: in, answer: { text: in } }] }
readJwt:
  on: GET /jwt
  access: { bearer: { jwt: { key: "\${vars.signing}", issuer: harbour, audience: desk, claims: { role: { in: [pilot, office] } } } } }
  cases: [{ case: in, answer: { text: in } }]
readEither: { on: GET /either, access: { key: { header: x-a, is: a }, bearer: { tokens: [t-1] } }, cases: [{ case: in, answer: { text: in } }] }
`;

beforeAll(async () => {
  upsetter = await startTestUpsetter();
  address = await upsetter.serve(
    'gate',
    OPERATIONS,
    'variables: { key: k-1, signing: s-1 }\nstate: { seen: 0 }\naccess: { key: { header: X-Harbour-Key, is: "${vars.key}" } }',
  );
});
afterAll(() => upsetter.stop());

const ask = async (path: string, headers: Record<string, string> = {}) => {
  const response = await fetch(address + path, { headers });
  const body = await response.text();
  return { status: response.status, body, challenge: response.headers.get('www-authenticate') };
};
const basic = (text: string) => ({ authorization: `Basic ${Buffer.from(text).toString('base64')}` });
const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url');
const sign = (claims: object, key = 's-1', alg = 'HS256', digest = 'sha256') => {
  const signed = `${part({ alg, typ: 'JWT' })}.${part(claims)}`;
  return { authorization: `Bearer ${signed}.${createHmac(digest, key).update(signed).digest('base64url')}` };
};
const CLAIMS = { iss: 'harbour', aud: ['desk', 'other'], role: 'pilot' };

describe('who may call', () => {
  test.each<[string, string, Record<string, string>, number, string | RegExp]>([
    ['everybody, where it is open', '/open', {}, 200, 'open'],
    ['who has the key of the service', '/key', { 'x-harbour-key': 'k-1' }, 200, 'in'],
    ['nobody without it', '/key', {}, 401, /there is no key \(header X-Harbour-Key\)/],
    ['nobody with another', '/key', { 'x-harbour-key': 'k-2' }, 401, /the key is not known/],
    ['who has one of several keys in the query', '/query?token=q2', {}, 200, 'in'],
    ['nobody with another there', '/query?token=q3', {}, 401, /the key is not known \(query token\)/],
    ['a user with a password', '/basic', basic('Una:pass:word'), 200, 'in'],
    ['whose name is no plain text', '/basic', basic('Søn:secret'), 200, 'in'],
    ['nobody else, by an answer of the file', '/basic', basic('Una:other'), 418, '{"no":"GET"}'],
    ['nobody who has a name of an object', '/basic', basic('constructor:x'), 418, /no/],
    ['who has a token', '/token', { authorization: 'bearer t-1' }, 200, 'in'],
    ['nobody with another token', '/token', { authorization: 'Bearer t-2' }, 401, /the token is not known/],
    ['who comes by the first way', '/either', { 'x-a': 'a' }, 200, 'in'],
    ['or by the second', '/either', { authorization: 'Bearer t-1' }, 200, 'in'],
    ['a token that is signed', '/jwt', sign(CLAIMS), 200, 'in'],
    ['by another digest', '/jwt', sign(CLAIMS, 's-1', 'HS512', 'sha512'), 200, 'in'],
    ['nobody by another key', '/jwt', sign(CLAIMS, 's-2'), 401, /its signature is not by this key/],
    [
      'nobody unsigned',
      '/jwt',
      { authorization: `Bearer ${part({ alg: 'none' })}.${part(CLAIMS)}.` },
      401,
      /signed by none/,
    ],
    ['nobody with what is no token', '/jwt', { authorization: 'Bearer abc' }, 401, /no JSON Web Token/],
    ['nobody of another issuer', '/jwt', sign({ ...CLAIMS, iss: 'x' }), 403, /claim iss is not harbour/],
    ['nobody for another audience', '/jwt', sign({ ...CLAIMS, aud: 'x' }), 403, /claim aud is not desk/],
    ['nobody of another role', '/jwt', sign({ ...CLAIMS, role: 'guest' }), 403, /claim role is to be in/],
    ['nobody without a role', '/jwt', sign({ iss: 'harbour', aud: 'desk' }), 403, /claim role is to be in/],
  ])('%s', async (_rule, path, headers, status, body) => {
    const answer = await ask(path, headers);
    expect(answer.status).toBe(status);
    if (typeof body === 'string') expect(answer.body).toBe(body);
    else expect(answer.body).toMatch(body);
  });

  test('is told by WWW-Authenticate', async () => {
    expect((await ask('/key')).challenge).toBe('Key header="X-Harbour-Key"');
    expect((await ask('/either')).challenge).toBe('Key header="x-a", Bearer');
    expect((await ask('/jwt', sign(CLAIMS, 's-2'))).challenge).toBe('Bearer error="invalid_token"');
  });

  test("goes by the lane's clock, where a token ends", async () => {
    const token = sign({
      ...CLAIMS,
      nbf: Date.parse('2026-03-02T08:00:00Z') / 1000,
      exp: Date.parse('2026-03-02T10:00:00Z') / 1000,
    });
    const at = async (freeze: string) => {
      await upsetter.client.setLaneClock('late', { freeze });
      return (await ask('/jwt', { ...token, 'upsetter-lane': 'late' })).body;
    };
    expect(await at('2026-03-02T09:30:00Z')).toBe('in');
    expect(await at('2026-03-02T10:00:00Z')).toContain('it ended at 2026-03-02T10:00:00.000Z');
    expect(await at('2026-03-02T07:59:59Z')).toContain('it begins at 2026-03-02T08:00:00.000Z');
  });
});

describe('a call that is refused', () => {
  test('changes nothing, and why says which case would have answered; the key is masked', async () => {
    await ask('/key', { 'x-harbour-key': 'k-wrong', 'upsetter-lane': 'refused' });
    expect((await ask('/seen', { 'upsetter-lane': 'refused' })).body).toBe('0');
    const { calls } = await upsetter.client.listCalls({ lane: 'refused', operation: 'readKey' });
    const [call] = calls;
    expect(call).toMatchObject({ answeredBy: 'access', case: null, stray: false, status: 401 });
    const { why } = await upsetter.client.why(call?.id ?? '');
    expect(why.summary).toBe(
      'refused: the key is not known (header X-Harbour-Key); without the refusal: case let in of readKey answers whatever comes to it',
    );
    expect(why.ladder[0]?.cases[0]?.outcome).toBe('would answer');
    expect(JSON.stringify(await upsetter.client.readCall(call?.id ?? ''))).not.toContain('k-wrong');
  });

  test('a preflight carries no keys, and is answered', async () => {
    const { status, headers } = await fetch(`${address}/key`, {
      method: 'OPTIONS',
      headers: { origin: 'https://board.harbour.example', 'access-control-request-method': 'GET' },
    });
    expect([status, headers.get('access-control-allow-methods')]).toEqual([204, expect.stringContaining('GET')]);
  });

  test('variables that let callers in, or sign, are not shown', async () => {
    const then = '[{ callback: { to: "http://127.0.0.1:1/", sign: { header: x-sign, key: "${vars.signing}" } } }]';
    await upsetter.serve(
      'shown',
      `a: { on: GET /a, cases: [{ case: a, answer: { text: "\${vars.quay}" }, then: ${then} }] }`,
      'variables: { quay: North, key: k-1, signing: s-1 }\naccess: { key: { header: a, is: "${vars.key}" } }',
    );
    expect((await upsetter.client.readService('shown')).variables).toEqual([
      { name: 'quay', value: 'North', environment: null },
      { name: 'key', value: '(secret)', environment: null },
      { name: 'signing', value: '(secret)', environment: null },
    ]);
  });

  test('a key in the query is masked, too', async () => {
    await ask('/query?a=1&token=q-secret&b=2', { 'upsetter-lane': 'masked' });
    const { calls } = await upsetter.client.listCalls({ lane: 'masked' });
    expect(calls[0]?.url).toBe('/query?a=1&token=(masked)&b=2');
  });

  test('nor is it shown by another way to write it, by why, by a stray or by a check', async () => {
    const lane = { 'upsetter-lane': 'hidden' };
    const at = await upsetter.serve(
      'hidden',
      'a: { on: GET /a, cases: [{ case: a, when: { query token: other, header x-key: other }, answer: {} }] }',
      'access: { key: { query: token, is: q-secret } }',
    );
    const stray = await (await fetch(`${at}/a?tok%65n=q-secret`, { headers: { ...lane, 'x-key': 'seen' } })).text();
    expect(stray).toContain('"found":"(masked)"');
    const { calls } = await upsetter.client.listCalls({ lane: 'hidden' });
    expect(calls[0]?.url).toBe('/a?tok%65n=(masked)');
    const { why } = await upsetter.client.why(calls[0]?.id ?? '');
    const checked = await upsetter.client.runChecks({
      file: 'checks: [{ check: one, of: hidden/a, where: { query token: x }, times: 1 }, { check: none, strays: 0 }]',
      lane: 'hidden',
    });
    expect(checked.results.flatMap(({ near }) => near.map(({ call }) => call))).toEqual(
      Array(2).fill('GET /a?tok%65n=(masked)'),
    );
    for (const shown of [stray, why, checked]) expect(JSON.stringify(shown)).not.toContain('q-secret');
  });
});

describe('mistakes are told', () => {
  test.each([
    ['access: {}', /`access` needs a way in: key, basic, bearer or certificate/],
    ['access: { key: { is: a } }', /`key` is \{ header: NAME/],
    ['access: { key: { header: a, query: b, is: c } }', /`key` is \{ header: NAME/],
    ['access: { key: { header: a } }', /a text or a list of texts|text, such as/],
    ['access: { bearer: {} }', /`bearer` is \{ tokens/],
    ['access: { bearer: { jwt: { key: a, claims: { role: { regex: "(" } } } } }', /no regular expression/],
    ['access: { kee: {} }', /did you mean `key`\?/],
    ['access: { key: { header: a, is: "${vars.kye}" } }', /only \$\{vars.NAME\} stands here/],
    ['access: { bearer: { jwt: { key: "${call.query.k}" } } }', /only \$\{vars.NAME\} stands here/],
    ['access: closed', /`access` is open, or has key/],
  ])('%s', async (more, message) => {
    const saving = upsetter.client.saveService('bad', fileOf('bad', 'a: { on: GET /a, cases: [] }', more));
    const told = await saving.then(
      () => 'saved',
      (error: Error & { problem?: unknown }) => JSON.stringify(error.problem),
    );
    expect(told).toMatch(message);
  });
});
