import { createPublicKey, generateKeyPairSync, type KeyObject, sign, verify } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fileOf, startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

let upsetter: TestUpsetter;
beforeAll(async () => {
  upsetter = await startTestUpsetter();
});
afterAll(() => upsetter.stop());

const GUARDED = `
read: { on: GET /berths, cases: [{ case: in, answer: { text: in } }] }
hold:
  on: POST /berths
  access: { bearer: { jwt: { keys: own, claims: { scope: { has: berths.hold } } } } }
  cases: [{ case: in, answer: { text: held } }]
`;
const ISSUING = `
variables: { secret: s-1 }
tokens:
  at: /oauth/token
  keys: /oauth/keys
  issuer: harbour
  audience: desk
  lasts: 10m
  clients:
    petrel: "\${vars.secret}"
    "sula:1": { secret: "a b", scope: [berths.read, berths.hold], claims: { role: pilot, quay: "\${call.form.quay}" } }
access: { bearer: { jwt: { keys: own, issuer: harbour, audience: desk } } }
`;

const basic = (id: string, secret: string) =>
  `Basic ${Buffer.from(`${encodeURIComponent(id)}:${encodeURIComponent(secret)}`).toString('base64')}`;

interface Given {
  readonly status: number;
  readonly challenge: string | null;
  readonly body: { access_token: string; expires_in: number; scope?: string; error?: string };
}

async function askToken(
  address: string,
  form: Record<string, string>,
  headers: Record<string, string> = {},
): Promise<Given> {
  const response = await fetch(`${address}/oauth/token`, { method: 'POST', body: new URLSearchParams(form), headers });
  const body = (await response.json()) as Given['body'];
  return { status: response.status, challenge: response.headers.get('www-authenticate'), body };
}

const claimsOf = (token: string) =>
  JSON.parse(Buffer.from(token.split('.')[1] ?? '', 'base64url').toString()) as Record<string, unknown>;
const call = async (address: string, token: string, method = 'GET', headers: Record<string, string> = {}) => {
  const response = await fetch(`${address}/berths`, {
    method,
    headers: { authorization: `Bearer ${token}`, ...headers },
  });
  return { status: response.status, body: await response.text() };
};
const GRANT = { grant_type: 'client_credentials' };

describe('a token endpoint', () => {
  let address: string;
  beforeAll(async () => {
    address = await upsetter.serve('issuing', GUARDED, ISSUING);
  });

  test('gives tokens that let their clients in, by what is in them', async () => {
    const { status, body } = await askToken(address, { ...GRANT, client_id: 'petrel', client_secret: 's-1' });
    expect({ status, ...body }).toMatchObject({ status: 200, token_type: 'Bearer', expires_in: 600 });
    expect(claimsOf(body.access_token)).toMatchObject({ iss: 'harbour', aud: 'desk', sub: 'petrel' });
    expect(await call(address, body.access_token)).toEqual({ status: 200, body: 'in' });
    expect(await call(address, body.access_token, 'POST')).toMatchObject({ status: 403 });
    const form = { ...GRANT, quay: 'East' };
    const sula = await askToken(address, form, { authorization: basic('sula:1', 'a b') });
    expect(sula.body.scope).toBe('berths.read berths.hold');
    expect(claimsOf(sula.body.access_token)).toMatchObject({ sub: 'sula:1', role: 'pilot', quay: 'East' });
    expect(await call(address, sula.body.access_token, 'POST')).toEqual({ status: 200, body: 'held' });
    const less = await askToken(address, { ...form, scope: 'berths.read' }, { authorization: basic('sula:1', 'a b') });
    expect(await call(address, less.body.access_token, 'POST')).toMatchObject({ status: 403 });
  });

  test('signs so that others can verify it with the keys it shows', async () => {
    const { body } = await askToken(address, { ...GRANT, client_id: 'petrel', client_secret: 's-1' });
    const shown = (await (await fetch(`${address}/oauth/keys`)).json()) as { keys: (JsonWebKey & { kid: string })[] };
    const [head = '', claims = '', signature = ''] = body.access_token.split('.');
    const { kid, alg } = JSON.parse(Buffer.from(head, 'base64url').toString()) as Record<string, string>;
    const jwk = shown.keys.find((key) => key.kid === kid);
    expect([alg, Object.keys(jwk ?? {})]).toEqual(['ES256', expect.not.arrayContaining(['d'])]);
    const key = { key: createPublicKey({ key: jwk as never, format: 'jwk' }), dsaEncoding: 'ieee-p1363' } as const;
    expect(verify('sha256', Buffer.from(`${head}.${claims}`), key, Buffer.from(signature, 'base64url'))).toBe(true);
  });

  test('goes by the clock of the lane, and keeps its keys when the service is saved', async () => {
    const lane = { 'upsetter-lane': 'tomorrow' };
    const { body } = await askToken(address, { ...GRANT, client_id: 'petrel', client_secret: 's-1' }, lane);
    await upsetter.client.saveService('issuing', fileOf('issuing', GUARDED, `${ISSUING}title: Saved again\n`));
    expect(await call(address, body.access_token, 'GET', lane)).toMatchObject({ status: 200 });
    await upsetter.client.setLaneClock('tomorrow', { advance: '11m' });
    expect(await call(address, body.access_token, 'GET', lane)).toMatchObject({
      status: 401,
      body: expect.stringContaining('it ended at'),
    });
  });

  test.each<[string, Record<string, string>, Record<string, string>, number, string]>([
    ['a form without a grant', {}, {}, 400, 'invalid_request'],
    ['another grant', { grant_type: 'password' }, {}, 400, 'unsupported_grant_type'],
    ['nobody', GRANT, {}, 401, 'invalid_client'],
    ['a wrong secret', { ...GRANT, client_id: 'petrel', client_secret: 'x' }, {}, 401, 'invalid_client'],
    ['a name of an object', { ...GRANT, client_id: 'constructor', client_secret: 'x' }, {}, 401, 'invalid_client'],
    ['credentials that are none', GRANT, { authorization: 'Basic %%%' }, 401, 'invalid_client'],
    [
      'a scope beyond its own',
      { ...GRANT, client_id: 'petrel', client_secret: 's-1', scope: 'all' },
      {},
      400,
      'invalid_scope',
    ],
  ])('refuses %s as RFC 6749 says', async (_who, form, headers, status, error) => {
    const given = await askToken(address, form, headers);
    expect(given).toMatchObject({ status, body: { error } });
    expect(given.challenge === null).toBe(status !== 401);
  });

  test('keeps neither the secrets that were sent nor the tokens', async () => {
    const { body } = await askToken(address, { ...GRANT, client_secret: 's-1', client_id: 'petrel' });
    const { calls } = await upsetter.client.listCalls({ service: 'issuing', operation: 'tokens.issue', limit: 1 });
    const kept = JSON.stringify(await upsetter.client.readCall(calls[0]?.id ?? ''));
    expect(kept).toContain('client_secret=(masked)');
    expect(kept).toContain('client_id=petrel');
    expect(kept).toContain('\\"access_token\\":\\"(masked)\\"');
    expect(kept).not.toContain(body.access_token);
    expect(kept).not.toContain('s-1');
  });

  test('does not show the secrets of its clients', async () => {
    const shown = await upsetter.client.readService('issuing');
    expect(shown.variables).toEqual([{ name: 'secret', value: '(secret)', environment: null }]);
  });
});

describe('tokens of others', () => {
  const pairs: Record<
    string,
    { alg: string; digest: string | null; options: object; keys: { publicKey: KeyObject; privateKey: KeyObject } }
  > = {
    rsa: { alg: 'RS256', digest: 'sha256', options: {}, keys: generateKeyPairSync('rsa', { modulusLength: 2048 }) },
    ec: {
      alg: 'ES384',
      digest: 'sha384',
      options: { dsaEncoding: 'ieee-p1363' },
      keys: generateKeyPairSync('ec', { namedCurve: 'secp384r1' }),
    },
    ed: { alg: 'EdDSA', digest: null, options: {}, keys: generateKeyPairSync('ed25519') },
  };
  const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url');
  const signed = (name: string, head: object = {}) => {
    const { alg, digest, options, keys } = pairs[name] as (typeof pairs)[string];
    const text = `${part({ alg, typ: 'JWT', ...head })}.${part({ sub: name })}`;
    return `${text}.${sign(digest, Buffer.from(text), { key: keys.privateKey, ...options }).toString('base64url')}`;
  };
  const jwkOf = (name: string, more: object = {}) => ({
    ...pairs[name]?.keys.publicKey.export({ format: 'jwk' }),
    ...more,
  });
  const serveWith = (name: string, jwt: string, files = {}) =>
    upsetter.client
      .saveService(
        name,
        fileOf(
          name,
          'read: { on: GET /berths, cases: [{ case: in, answer: { text: in } }] }',
          `access: { bearer: { jwt: ${jwt} } }`,
        ),
        { files },
      )
      .then((saved) => saved.address ?? '');

  test.each(['rsa', 'ec', 'ed'])('are let in by a public key in PEM: %s', async (name) => {
    const pem = pairs[name]?.keys.publicKey.export({ format: 'pem', type: 'spki' });
    const address = await serveWith(`pem-${name}`, '{ key: ./public.pem }', {
      './public.pem': { kind: 'text', content: pem },
    });
    expect(await call(address, signed(name))).toMatchObject({ status: 200 });
    for (const other of ['rsa', 'ec', 'ed'].filter((own) => own !== name))
      expect(await call(address, signed(other))).toMatchObject({
        status: 401,
        body: expect.stringContaining('no key of the file is for'),
      });
  });

  test('are let in by a key set, by the key that they name', async () => {
    const set = { keys: [jwkOf('rsa', { kid: 'r1' }), jwkOf('ec', { kid: 'e1' })] };
    const address = await serveWith('set', '{ keys: ./keys.json }', {
      './keys.json': { kind: 'text', content: JSON.stringify(set) },
    });
    expect(await call(address, signed('rsa', { kid: 'r1' }))).toMatchObject({ status: 200 });
    expect(await call(address, signed('ec'))).toMatchObject({ status: 200 });
    expect(await call(address, signed('rsa', { kid: 'x' }))).toMatchObject({
      status: 401,
      body: expect.stringContaining('its key \\"x\\" is not known'),
    });
    expect(await call(address, signed('rsa', { kid: 'e1' }))).toMatchObject({ status: 401 });
    const [head, body, signature = ''] = signed('rsa', { kid: 'r1' }).split('.');
    const other = [head, body, `${signature.startsWith('A') ? 'B' : 'A'}${signature.slice(1)}`].join('.');
    expect(await call(address, other)).toMatchObject({
      status: 401,
      body: expect.stringContaining('its signature is not by'),
    });
  });

  test('are never held against a public key as if it were a shared one', async () => {
    const pem = String(pairs['rsa']?.keys.publicKey.export({ format: 'pem', type: 'spki' }));
    const address = await serveWith('confused', '{ key: ./public.pem }', {
      './public.pem': { kind: 'text', content: pem },
    });
    const { createHmac } = await import('node:crypto');
    const text = `${part({ alg: 'HS256' })}.${part({ sub: 'x' })}`;
    const forged = `${text}.${createHmac('sha256', pem).update(text).digest('base64url')}`;
    expect(await call(address, forged)).toMatchObject({
      status: 401,
      body: expect.stringContaining('it is signed by HS256'),
    });
    const none = `${part({ alg: 'none' })}.${part({ sub: 'x' })}.`;
    expect(await call(address, none)).toMatchObject({
      status: 401,
      body: expect.stringContaining('it is signed by none'),
    });
  });

  test.each([
    ['{ key: "-----BEGIN PUBLIC KEY-----" }', 'access.bearer.jwt.key'],
    ['{ keys: { keys: [{ kty: RSA }] } }', 'access.bearer.jwt.keys.keys[0]'],
    ['{ keys: own }', 'access.bearer.jwt.keys'],
    ['{ key: a, keys: own }', 'access.bearer.jwt'],
  ])('are refused at save where the file has no key: %s', async (jwt, path) => {
    await expect(serveWith('broken', jwt)).rejects.toMatchObject({
      problem: {
        code: 'file-refused',
        problems: expect.arrayContaining([expect.objectContaining({ path })]) as unknown,
      },
    });
  });
});
