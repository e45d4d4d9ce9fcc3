import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { answerJson, load } from './support.js';

const text = readFileSync(new URL('../../../docs/resources.md', import.meta.url), 'utf8');
const [, first = ''] = /```yaml\n([\s\S]*?)```/.exec(text) ?? [];
const service = load(first);
const table = text.slice(text.indexOf('| query | vessels |'), text.indexOf('\n\n', text.indexOf('| query |')));
const rows = [...table.matchAll(/^\| `([^`]+)` \| (.+?) \|$/gm)].map(([, query = '', names = '']) => [query, names]);

test('the table has rows', () => expect(rows.length).toBeGreaterThanOrEqual(15));

test.each(rows)('?%s lists %s', (query, names) => {
  const { items } = answerJson(service, `GET /vessels?${query}`) as { items: { name: string }[] };
  expect(items.map(({ name }) => name).join(', ')).toBe(names);
});
