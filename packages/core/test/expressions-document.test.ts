import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { Lanes } from '../src/index.js';
import { answerJson, load } from './support.js';

const DOCUMENT = readFileSync(new URL('../../../docs/expressions.md', import.meta.url), 'utf8');
const ROWS = DOCUMENT.split('\n').flatMap((line) => {
  const [, expression, gives] = /^\| `(.*)` \| `(.*)` \|$/.exec(line) ?? [];
  return expression === undefined || gives === undefined ? [] : [{ expression, gives }];
});
const BODY = /^`(\{"vessel".*\})`, at /m.exec(DOCUMENT)?.[1] ?? '';

/** What an expression gives on the call that the document names. */
function evaluate(expression: string): string {
  const file = {
    upsetter: 1,
    service: 'berth-desk',
    lexicon: { vesselName: ['Anna Grey', 'Petrel', 'Sula'] },
    operations: {
      book: {
        on: 'POST /berths/{berthId}/bookings',
        cases: [{ case: 'asked', answer: { json: { value: `\${${expression}}` } } }],
      },
    },
  };
  const line = 'POST /berths/N7/bookings?day=2026-03-02&tag=a&tag=b';
  const sent = { headers: { 'x-harbour-key': 'k1' }, body: BODY };
  const { value } = answerJson(load(JSON.stringify(file)), line, sent, new Lanes('harbour')) as { value: unknown };
  return JSON.stringify(value);
}

describe('docs/expressions.md', () => {
  test('has examples, and a call for them', () => {
    expect(ROWS.length).toBeGreaterThan(70);
    expect(JSON.parse(BODY)).toHaveProperty('vessel.imo');
    expect(DOCUMENT.split('\n').filter((line) => line.startsWith('| `'))).toHaveLength(ROWS.length);
  });

  test.each(ROWS)('$expression gives $gives', ({ expression, gives }) => {
    expect(evaluate(expression)).toBe(gives);
  });
});
