import { describeUpset } from '@upsetter/core/light';
import type { CallSummary } from '@upsetter/core/wire';
import { describe, expect, test } from 'vitest';
import { mergeCalls } from '../src/live/call-feed.js';
import { buildUpset } from '../src/services/build-upset.js';
import { answeredByText, outcomeOf } from '../src/ui/Outcome.js';
import { prettyBody } from '../src/ui/pretty-body.js';

const call = (id: string, more: Partial<CallSummary> = {}): CallSummary => ({
  id,
  at: '',
  service: 's',
  version: null,
  revision: 1,
  operation: 'read',
  case: 'lit',
  lane: 'main',
  answeredBy: 'case',
  stray: false,
  state: 'done',
  method: 'GET',
  url: '/',
  status: 200,
  upsets: [],
  ownMs: 0,
  delayAskedMs: 0,
  delayGivenMs: 0,
  totalMs: 0,
  trouble: null,
  findings: 0,
  callbacks: 0,
  callbacksFailed: 0,
  ...more,
});

describe('calls as they come', () => {
  test('stand newest first, a later state in the place of an earlier one', () => {
    const merged = mergeCalls([call('2', { state: 'in flight' }), call('1')], [call('3'), call('2')]);
    expect(merged.map(({ id, state }) => `${id} ${state}`)).toEqual(['3 done', '2 done', '1 done']);
  });

  test('are bounded', () => {
    const many = Array.from({ length: 400 }, (_, i) => call(String(i).padStart(4, '0')));
    expect(mergeCalls([], many)).toHaveLength(300);
    expect(mergeCalls([], many)[0]?.id).toBe('0399');
  });
});

test.each<[Partial<CallSummary>, string, string]>([
  [{}, 'answered', 'read / lit'],
  [{ state: 'in flight', status: null, case: null, operation: null }, 'open', 'in flight'],
  [{ state: 'broken' }, 'failed', 'read / lit'],
  [{ stray: true, case: null, answeredBy: 'nobody' }, 'stray', 'stray at read'],
  [{ stray: true, case: null, operation: null, answeredBy: 'nobody' }, 'stray', 'stray'],
  [{ answeredBy: 'upset', case: null, upsets: ['fog'] }, 'upset', 'upset: fog'],
  [{ answeredBy: 'nobody', case: null, operation: null }, 'own', 'the mock itself'],
  [{ case: null, trouble: '${x} failed' }, 'failed', 'read'],
])('a call with %j is %s: %s', (more, kind, text) => {
  expect([outcomeOf(call('1', more)).kind, answeredByText(call('1', more))]).toEqual([kind, text]);
});

describe('an upset from the panel', () => {
  test.each([
    [
      { delay: '800ms', pace: '', status: '', share: '50%' },
      { upset: 'delay 800ms, 50% of the calls', delay: '800ms', share: '50%' },
    ],
    [
      { delay: '', pace: '', status: '503', share: '' },
      { upset: 'answer 503', answer: { status: 503, problem: { title: 'Upset: answer 503' } } },
    ],
    [
      { delay: '', pace: '20kB/s', status: '', share: '' },
      { upset: 'pace 20kB/s', pace: '20kB/s' },
    ],
  ])('%j', (fields, upset) => expect(buildUpset(fields)).toEqual(upset));

  test.each([
    [{ delay: '1s', share: '30%', of: ['a', 'b'] }, 'delay 1s, 30% of the calls, of a, b'],
    [{ pace: { pieces: 5, gap: '400ms' }, first: 3 }, 'pace 5 pieces, 400ms apart, the first 3 calls of a lane'],
    [
      { break: 'reset' as const, during: { from: '30s', for: '10s', again: '60s' } },
      'break reset, for 10s, 30s after it is switched on, again every 60s',
    ],
  ])('is described in a few words: %j', (definition, words) => {
    expect(describeUpset(definition)).toBe(words);
  });
});

test.each([
  ['', '(no body)'],
  ['{"a":1}', '{\n  "a": 1\n}'],
  ['plain', 'plain'],
])('the body %j is shown as %j', (body, shown) => expect(prettyBody(body)).toBe(shown));
