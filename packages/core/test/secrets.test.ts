import { describe, expect, test } from 'vitest';
import { type Exchange, SecretMasker } from '../src/index.js';
import { maskExchanges } from '../src/traffic/secret-masker.js';

const KEY = new Uint8Array(32).fill(7);
const TOKEN = 'q7Rt-90xKe_2mWvB4';
const JWT = `${btoa('{"alg":"HS256"}')}.${btoa('{"sub":"ida","exp":1800000000}').replace(/=+$/, '')}.c2lnbmF0dXJl`;

const exchange = (more: Partial<Exchange>): Exchange => ({
  index: 0,
  startedAtMs: 0,
  firstByteMs: 0,
  tookMs: 0,
  method: 'POST',
  origin: 'http://a',
  path: '/x',
  query: [],
  requestHeaders: [],
  requestBody: null,
  status: 200,
  responseHeaders: [],
  contentType: 'application/json',
  body: null,
  trouble: null,
  ...more,
});
const answered = (json: unknown): Exchange['body'] => ({ kind: 'text', content: JSON.stringify(json) });
const mask = (...exchanges: Exchange[]): Exchange[] => maskExchanges(exchanges, new SecretMasker(KEY));

describe('secrets of a take', () => {
  test('read the same, masked, wherever they appear: where they were issued and where they were used', () => {
    const [issued, used] = mask(
      exchange({ body: answered({ key: TOKEN, note: `keep ${TOKEN} safe` }) }),
      exchange({ requestHeaders: ['Authorization', `Bearer ${TOKEN}`] }),
    ) as [Exchange, Exchange];
    const json = JSON.parse(issued.body?.content ?? '') as { key: string; note: string };
    expect(JSON.stringify([issued, used])).not.toContain(TOKEN);
    expect(used.requestHeaders[1]).toBe(`Bearer ${json.key}`);
    expect(json.note).toBe(`keep ${json.key} safe`);
  });

  test('keep their length and kinds of characters, and differ under another key', () => {
    const [one] = mask(exchange({ requestHeaders: ['x-api-key', TOKEN] }));
    const [other] = maskExchanges(
      [exchange({ requestHeaders: ['x-api-key', TOKEN] })],
      new SecretMasker(new Uint8Array(32)),
    );
    expect(one?.requestHeaders[1]).toMatch(/^[a-z]\d[A-Z][a-z]-\d\d[a-z][A-Z][a-z]_\d[a-z][A-Z][a-z][A-Z]\d$/);
    expect(other?.requestHeaders[1]).not.toBe(one?.requestHeaders[1]);
  });

  test('in a JWT: it stays decodable, with its moments', () => {
    const [one] = mask(exchange({ body: answered({ it: JWT }) }));
    const { it } = JSON.parse(one?.body?.content ?? '') as { it: string };
    const claims = JSON.parse(atob(it.split('.')[1] ?? '')) as Record<string, unknown>;
    expect(it.split('.')[0]).toBe(JWT.split('.')[0]);
    expect(claims['exp']).toBe(1_800_000_000);
    expect(claims['sub']).not.toBe('ida');
  });

  test.each<[string, Partial<Exchange>, string]>([
    ['a password in JSON', { requestBody: '{"user":"ida","password":"tide"}' }, '"user":"ida"'],
    ['a field of a form', { requestBody: 'user=ida&client_secret=tide99' }, 'user=ida'],
    [
      'a parameter',
      {
        query: [
          ['access_token', 'tide99'],
          ['day', '2026-03-02'],
        ],
      },
      '2026-03-02',
    ],
    ['a cookie', { responseHeaders: ['set-cookie', 'gauge=tide99; Path=/'] }, 'Path=/'],
    ['a card number', { requestBody: '{"n":"4111 1111 1111 1111","user":"ida"}' }, '"user":"ida"'],
  ])('%s is masked, the rest stays', (_what, more, rest) => {
    const [one] = mask(exchange(more));
    const text = JSON.stringify(one).replaceAll('\\"', '"');
    expect(text).not.toMatch(/tide|4111 1111 1111 1111/);
    expect(text).toContain(rest);
  });

  test('are told by place and number, and what holds none is left as it is', () => {
    const masker = new SecretMasker(KEY, ['harbour-pass']);
    const plain = exchange({ requestBody: '{ "user": "ida" }' });
    maskExchanges([plain, exchange({ requestHeaders: ['Harbour-Pass', 'abc12345'] })], masker);
    expect(masker.places()).toEqual([{ place: 'header harbour-pass', count: 1 }]);
    expect(masker.mask(plain)).toEqual(plain);
  });
});
