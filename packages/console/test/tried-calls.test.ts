import { describe, expect, test } from 'vitest';
import { asCurl, asFetch } from '../src/calls/call-as-code.js';
import { keepTried, parseHeaders, readTried, toTried } from '../src/calls/tried-calls.js';

const CALL = {
  url: "http://127.0.0.1:4611/berths/N7?note=it's",
  method: 'POST',
  headers: ['Host', '127.0.0.1:4611', 'content-type', 'application/json', 'Content-Length', '5'],
  body: '{"a":"it\'s"}',
};

describe('a call as code', () => {
  test('is a command for the shell, whatever stands in it', () => {
    expect(asCurl(CALL)).toBe(
      `curl -X POST 'http://127.0.0.1:4611/berths/N7?note=it'\\''s' \\\n  -H 'content-type: application/json' \\\n  --data-raw '{"a":"it'\\''s"}'`,
    );
    expect(asCurl({ ...CALL, method: 'GET', headers: [], body: null })).toBe(
      `curl 'http://127.0.0.1:4611/berths/N7?note=it'\\''s'`,
    );
  });

  test('over TLS trusts the authority, and shows the certificate that was chosen', () => {
    const secure = { ...CALL, url: 'https://localhost:4611/', method: 'GET', headers: [], body: null };
    expect(asCurl(secure)).toBe("curl 'https://localhost:4611/' \\\n  --cacert upsetter-authority.pem");
    expect(asCurl({ ...secure, certificate: 'Anna Grey' })).toBe(
      "curl 'https://localhost:4611/' \\\n  --cacert upsetter-authority.pem \\\n  --cert Anna-Grey.pem --key Anna-Grey.key",
    );
  });

  test('is a call of fetch', () => {
    const sent: unknown[] = [];
    const code = asFetch(CALL).replace('await fetch', 'return fetch');
    new Function('fetch', code)((...args: unknown[]) => sent.push(args));
    expect(sent).toEqual([
      [CALL.url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: CALL.body }],
    ]);
    expect(asFetch({ ...CALL, method: 'GET', headers: [], body: null })).toBe(
      `await fetch(${JSON.stringify(CALL.url)});`,
    );
  });
});

describe('calls that were tried', () => {
  const storage = (kept: Record<string, string> = {}) => ({
    getItem: (key: string) => kept[key] ?? null,
    setItem: (key: string, text: string) => {
      kept[key] = text;
    },
  });
  const call = (path: string) => ({ method: 'GET', path, headers: '', body: '' });

  test('are kept by service, the last one first, each once, twenty at most', () => {
    const kept = storage();
    for (let i = 0; i < 30; i++) keepTried('desk', call(`/${i}`), kept);
    keepTried('desk', call('/20'), kept);
    const paths = readTried('desk', kept).map(({ path }) => path);
    expect([paths.length, paths[0], paths[1]]).toEqual([20, '/20', '/29']);
    expect(readTried('other', kept)).toEqual([]);
  });

  test('are none where what is kept cannot be read', () => {
    expect(readTried('desk', storage({ 'upsetter tried desk': '{' }))).toEqual([]);
    expect(readTried('desk', storage({ 'upsetter tried desk': '[1, null, {"method": "GET"}]' }))).toEqual([]);
  });

  test('are made of a call of the log, without what a client sends by itself', () => {
    const headers = ['Host', 'mock', 'Accept', 'text/xml', 'x-a', '1', 'X-A', '2', 'upsetter-lane', 'one'];
    expect(toTried({ method: 'GET', url: '/a?b=1', headers, body: null })).toEqual({
      method: 'GET',
      path: '/a?b=1',
      headers: 'Accept: text/xml\nx-a: 1, 2',
      body: '',
    });
  });

  test('have headers, one a line', () => {
    expect(parseHeaders('Accept: text/xml\n\nno header\nx-a: b: c')).toEqual({ accept: 'text/xml', 'x-a': 'b: c' });
  });
});
