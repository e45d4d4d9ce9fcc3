import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { AppError, draftTraffic, type Exchange, readHar } from '../src/index.js';
import { type Chooser, createChooser } from './chooser.js';

const FILES = new URL('../../demo/files/', import.meta.url);
const SESSIONS = ['booking.har', 'booking-next-day.har', 'tide-office.har'].map(
  (name) => readHar(readFileSync(new URL(name, FILES), 'utf8')).exchanges,
);
const ODD_VALUES: readonly unknown[] = [
  null,
  0,
  -1,
  1,
  404,
  1e21,
  0.1,
  '',
  ' ',
  '1',
  '007',
  'N7',
  '${call.path.x}',
  'a'.repeat(600),
  true,
  [],
  {},
  [1, 2],
  [{ id: 1 }],
  { id: 'N7' },
  { 'a b': { 'c.d': 1 } },
  '2026-03-02T10:00:00Z',
  'e3b0c442-98fc-4c14-9afb-f4c8996fb924',
];
const ODD_SEGMENTS = ['1', '404', '%20', 'N%2F7', 'a.b', '${x}', '-', 'null', 'constructor', '__proto__'];

/** A session as no service would answer it: exchanges missing, twice, in another order, values of other kinds, odd paths. */
function spoil(session: readonly Exchange[], choose: Chooser): Exchange[] {
  const kept = session.flatMap((exchange) =>
    choose.below(4) === 0 ? [] : choose.below(8) === 0 ? [exchange, exchange] : [exchange],
  );
  if (choose.below(3) === 0) kept.sort(() => choose.below(3) - 1);
  return kept.map((exchange, index) => ({
    ...exchange,
    index,
    path: choose.below(12) === 0 ? exchange.path.replace(/[^/]+$/, choose.of(ODD_SEGMENTS)) : exchange.path,
    status: choose.below(10) === 0 ? choose.of([200, 201, 204, 404, 409, 500]) : exchange.status,
    requestBody: choose.below(6) === 0 ? spoilText(exchange.requestBody, choose) : exchange.requestBody,
    body:
      exchange.body !== null && choose.below(4) === 0
        ? { kind: 'text', content: spoilText(exchange.body.content, choose) ?? '' }
        : exchange.body,
  }));
}

function spoilText(text: string | null, choose: Chooser): string | null {
  if (choose.below(10) === 0) return choose.of([null, '', '{', '[]', 'text', '"x"', '{"__proto__":{"a":1}}']);
  try {
    return JSON.stringify(JSON.parse(text ?? 'null'), (_key, value: unknown) =>
      choose.below(10) === 0 ? choose.of(ODD_VALUES) : value,
    );
  } catch {
    return text;
  }
}

describe('a session that makes no sense', () => {
  test.each([1, 2, 3, 4])('is drafted all the same, into a file that loads (seed %i)', (seed) => {
    const choose = createChooser(seed);
    for (let round = 0; round < 10; round++) {
      const session = spoil(choose.of(SESSIONS), choose);
      for (const level of ['as-heard', 'carried', 'alive'] as const) {
        try {
          const draft = draftTraffic(session, { service: 'odd', origin: null, port: null, level });
          expect(draft.fidelity).not.toBeNull();
        } catch (error) {
          expect(error, String((error as Error).stack)).toBeInstanceOf(AppError);
          expect((error as AppError).code, JSON.stringify((error as AppError).details)).toBe('file-unreadable');
        }
      }
    }
  });
});
