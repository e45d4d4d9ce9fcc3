import { expect, test } from 'vitest';
import { MinuteCounts } from '../src/calls/minute-counts.js';

const START_MS = 1_000_000_000;

test('counts the last 60 seconds of each service, strays apart', () => {
  const counts = new MinuteCounts();
  for (let second = 0; second < 90; second++) {
    counts.add('lamp', second % 10 === 0, START_MS + second * 1000);
    counts.add('lamp', false, START_MS + second * 1000 + 999);
  }
  counts.add('bell', true, START_MS);
  expect(counts.of('lamp', START_MS + 89_999)).toEqual({ calls: 120, strays: 6 });
  expect(counts.of('bell', START_MS + 59_999)).toEqual({ calls: 1, strays: 1 });
  expect(counts.of('bell', START_MS + 60_000)).toEqual({ calls: 0, strays: 0 });
  expect(counts.of('nobody', START_MS)).toEqual({ calls: 0, strays: 0 });
});

test('a bucket that is used again begins at nothing, also after a long silence', () => {
  const counts = new MinuteCounts();
  for (let i = 0; i < 50; i++) counts.add('lamp', false, START_MS);
  counts.add('lamp', false, START_MS + 3_600_000);
  expect(counts.of('lamp', START_MS + 3_600_000)).toEqual({ calls: 1, strays: 0 });
});
