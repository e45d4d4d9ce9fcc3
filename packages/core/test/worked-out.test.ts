import { describe, expect, test } from 'vitest';
import { draftTraffic, type Exchange } from '../src/index.js';
import { exchangeOf } from './exchange-of.js';

interface Sent {
  readonly path: string;
  readonly sent: unknown;
  readonly json: unknown;
}

const post = ({ path, sent, json }: Sent, index: number): Exchange => ({
  ...exchangeOf({ path, method: 'POST', json, index }),
  requestHeaders: ['content-type', 'application/json', 'host', 'a'],
  requestBody: JSON.stringify(sent),
});

function draftOf(...sent: readonly Sent[]): string {
  const draft = draftTraffic(sent.map(post), { service: 'chandlery', origin: null, port: null, level: 'alive' });
  expect(draft.fidelity?.differences).toEqual([]);
  return draft.text;
}

const quote = (sent: unknown, json: unknown): Sent => ({ path: '/quotes', sent, json });

describe('numbers of an answer that are worked out', () => {
  test.each([
    [
      'a sum over what was sent',
      [
        quote({ lines: [{ amount: 18.5 }, { amount: 42 }] }, { total: 60.5 }),
        quote({ lines: [{ amount: 7.25 }] }, { total: 7.25 }),
      ],
      'total: "${sum(call.json.lines.map(item, item.amount))}"',
    ],
    [
      'a sum of products',
      [
        quote(
          {
            lines: [
              { price: 18.5, quantity: 2 },
              { price: 42, quantity: 1 },
            ],
          },
          { total: 79 },
        ),
        quote({ lines: [{ price: 7.25, quantity: 4 }] }, { total: 29 }),
      ],
      'total: "${sum(call.json.lines.map(item, item.price * item.quantity))}"',
    ],
    [
      'a product, once heard, of a number called like one',
      [quote({ price: 18.5, quantity: 3 }, { amount: 55.5 })],
      'amount: "${call.json.price * call.json.quantity}"',
    ],
    [
      'a difference',
      [quote({ given: 100, due: 66 }, { change: 34 }), quote({ given: 50, due: 7.5 }, { change: 42.5 })],
      'change: "${call.json.given - call.json.due}"',
    ],
    [
      'what floating point would spoil is rounded',
      [quote({ a: 0.1, b: 0.2 }, { sum: 0.3 }), quote({ a: 0.7, b: 0.1 }, { sum: 0.8 })],
      'sum: "${round(call.json.a + call.json.b, 2)}"',
    ],
    [
      'how many of a list are so',
      [
        quote({ seats: [{ free: true }, { free: false }, { free: true }] }, { free: 2 }),
        quote({ seats: [{ free: true }, { free: false }, { free: false }] }, { free: 1 }),
        quote({ seats: [{ free: true }, { free: true }, { free: true }] }, { free: 3 }),
      ],
      'free: "${size(call.json.seats.filter(item, item.free == true))}"',
    ],
  ])('%s', (_what, sent, written) => {
    expect(draftOf(...sent)).toContain(written);
  });

  test('what agrees by chance is not taken for it: one call, a name that says nothing', () => {
    const text = draftOf(quote({ fathoms: 12, quay: 3 }, { berth: 15, depth: 9, code: 36 }));
    expect(text).toContain('berth: 15');
    expect(text).toContain('depth: 9');
    expect(text).toContain('code: 36');
  });
});

test('a link that begins with the own address of the service begins with what the caller calls it', () => {
  const text = draftOf({
    path: '/lamps',
    sent: { quay: 'north' },
    json: { id: 'L-7f3a9c2e1b', self: 'http://a/lamps/L-7f3a9c2e1b' },
  });
  expect(text).toContain('self: "${call.origin}/lamps/');
});
