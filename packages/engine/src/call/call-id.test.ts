import { expect, test } from 'vitest';
import { makeCallId } from './call-id.js';

test('ids are UUIDv7 of their millisecond', () => {
  const id = makeCallId(0x0123456789ab);
  expect(id).toMatch(/^01234567-89ab-7000-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
});

test('ids of one process sort in the order they were made, within a millisecond, beyond 4096 in one, and when the clock goes back', () => {
  const nowMs = 0x0200000000ff;
  const ids = Array.from({ length: 10_000 }, (_, i) => makeCallId(i === 9_999 ? nowMs - 5_000 : nowMs));
  expect([...ids].sort()).toEqual(ids);
  expect(new Set(ids).size).toBe(ids.length);
});
