import { expect, test } from 'vitest';
import { moveItem, putValue, removeValue, renameKey } from '../src/form/change-text.js';

const TEXT = `# a quay
operations:
  # by its number
  readBerth: { on: GET /berths }
  other:
    cases: [a, b]
`;

test('a name of a map becomes another, in its place, with its comment', () => {
  expect(renameKey(TEXT, ['operations', 'readBerth'], 'findBerth')).toBe(TEXT.replace('readBerth', 'findBerth'));
  expect(renameKey(TEXT, ['operations', 'readBerth'], 'state held[1]: x')).toContain('  "state held[1]: x": { on: GET');
});

test('a name that another entry has, or of an entry that is not there, changes nothing', () => {
  expect(renameKey(TEXT, ['operations', 'readBerth'], 'other')).toBe(TEXT);
  expect(renameKey(TEXT, ['operations', 'gone'], 'here')).toBe(TEXT);
  expect(renameKey(TEXT, ['gone', 'readBerth'], 'here')).toBe(TEXT);
});

test('values are put, removed and moved; what stands beside them stays as it is', () => {
  expect(putValue(TEXT, ['operations', 'readBerth', 'on'], 'GET /quays')).toBe(TEXT.replace('/berths', '/quays'));
  expect(removeValue(TEXT, ['operations', 'other'])).toBe(TEXT.slice(0, TEXT.indexOf('  other')));
  expect(moveItem(TEXT, ['operations', 'other', 'cases', 1], -1)).toBe(TEXT.replace('[a, b]', '[b, a]'));
  expect(moveItem(TEXT, ['operations', 'other', 'cases', 1], 1)).toBe(TEXT);
});
