import type { IncomingMessage } from 'node:http';
import type { CorsRules } from '@upsetter/core';
import { describe, expect, test } from 'vitest';
import { readHead } from '../src/call/read-head.js';
import { addCorsHeaders } from '../src/wire/cors-headers.js';
import { waitPrecisely } from '../src/wire/wait.js';

const head = (...rawHeaders: string[]) => readHead({ rawHeaders } as unknown as IncomingMessage);

describe('what the path of a call reads of the headers', () => {
  test.each<[string[], object]>([
    [[], { lane: null, baggage: null, origin: null, hasBody: false }],
    [['Upsetter-Lane', 'night'], { lane: 'night' }],
    [['BAGGAGE', 'a=1', 'baggage', 'lane=x'], { baggage: 'a=1,lane=x' }],
    [['Origin', 'http://a'], { origin: 'http://a' }],
    [['Content-Length', '5'], { hasBody: true }],
    [['content-length', '0'], { hasBody: false }],
    [['Transfer-Encoding', 'chunked'], { hasBody: true }],
    [['X-Other1', 'a', 'packages', 'b', 'orogin', 'c'], { lane: null, baggage: null, origin: null, hasBody: false }],
  ])('%j', (headers, expected) => expect(head(...headers)).toMatchObject(expected));
});

describe('CORS headers', () => {
  const rules: CorsRules = {
    allows: () => true,
    methods: null,
    headers: null,
    expose: null,
    credentials: true,
    maxAgeSeconds: 5,
  };

  test('repeat the origin, allow credentials and expose what the answer has', () => {
    const headers = ['content-type', 'text/plain', 'X-Depth', '5'];
    addCorsHeaders(headers, 'http://a', rules);
    expect(headers.slice(4)).toEqual([
      'vary',
      'origin',
      'access-control-allow-origin',
      'http://a',
      'access-control-allow-credentials',
      'true',
      'access-control-expose-headers',
      'content-type, x-depth',
    ]);
  });

  test('are left alone when the answer sets its own', () => {
    const headers = ['Access-Control-Allow-Origin', '*'];
    addCorsHeaders(headers, 'http://a', rules);
    expect(headers).toEqual(['Access-Control-Allow-Origin', '*']);
  });
});

describe('a wait', () => {
  test.each([0, 1, 7.5, 30])('of %s ms is never shorter', async (ms) => {
    const startedMs = performance.now();
    await new Promise<void>((resolve) => waitPrecisely(ms, resolve));
    expect(performance.now() - startedMs).toBeGreaterThanOrEqual(ms);
  });

  test('that is cancelled does not end', async () => {
    let ended = false;
    const cancel = waitPrecisely(5, () => {
      ended = true;
    });
    cancel();
    await new Promise<void>((resolve) => waitPrecisely(15, resolve));
    expect(ended).toBe(false);
  });
});
