import { describe, expect, test } from 'vitest';
import { writeExact } from '../src/json/exact-json.js';
import { RequestView } from '../src/request/request-view.js';

const BYTES: readonly (readonly [string, string, Uint8Array])[] = [
  ['ASCII', 'application/json', new TextEncoder().encode('{"vessel":"Petrel"}')],
  ['UTF-8', 'application/json', new TextEncoder().encode('{"vessel":"Sægull"}')],
  ['with a byte order mark', 'text/plain', new Uint8Array([0xef, 0xbb, 0xbf, 0x61])],
  ['bytes that are no UTF-8', 'text/plain', new Uint8Array([0x61, 0xff, 0x62])],
  ['Latin-1', 'text/plain; charset=iso-8859-1', new Uint8Array([0x53, 0xe6])],
  ['UTF-16', 'text/plain; charset=utf-16le', new Uint8Array([0x61, 0, 0x62, 0])],
  ['long', 'text/plain', new Uint8Array(5_000).fill(0x61)],
  ['empty', 'text/plain', new Uint8Array(0)],
];

const made = (type: string, body: Uint8Array, target = '/berths/N7?quay=North'): RequestView => {
  const request = new RequestView('id', 'POST', target, ['content-type', type, 'x-berth', 'N7'], 0);
  request.body = body;
  return request;
};

describe('a request that is kept reads as it did when it came', () => {
  test.each(BYTES)('%s', (_, type, bytes) => {
    const request = made(type, bytes);
    const before = [request.text(), request.json()];
    request.forget();
    request.share(made(type, new Uint8Array(0)));
    expect([...(request.body ?? [])]).toEqual([...bytes]);
    expect(request.bodyBytes).toBe(bytes.byteLength);
    expect([request.text(), request.json()]).toEqual(before);
    expect([request.target, request.path, request.query('quay')]).toEqual([
      '/berths/N7?quay=North',
      '/berths/N7',
      'North',
    ]);
  });

  test('a body that is put in the place of another leaves nothing of it', () => {
    const request = made('text/plain', new TextEncoder().encode('secret'));
    request.text();
    request.forget();
    request.body = new TextEncoder().encode('(masked)');
    expect([request.text(), new TextDecoder().decode(request.body ?? undefined)]).toEqual(['(masked)', '(masked)']);
  });

  test('texts are shared with an alike request only where they are the same', () => {
    const one = made('text/plain', new Uint8Array(0), '/berths/N7');
    const other = made('text/html', new Uint8Array(0), '/berths/S2');
    one.share(other);
    expect([one.target, one.path, one.header('content-type'), one.header('x-berth')]).toEqual([
      '/berths/N7',
      '/berths/N7',
      'text/plain',
      'N7',
    ]);
  });
});

test('JSON is written as the runtime writes it, character by character', () => {
  const characters = Array.from({ length: 0x100 }, (_, code) => String.fromCharCode(code));
  const texts = [...characters, '\u2028', '\ud800', 'a\udc00', '\ud83d\ude80', 'é', 'x'.repeat(60), '', 'N7'];
  const values = [...texts, 0, -0, 1.5, 1e21, 1e-7, Number.NaN, Infinity, 2 ** 53, true, null, { a: [1] }];
  for (const value of values) expect(writeExact(value)).toBe(JSON.stringify(value));
});
