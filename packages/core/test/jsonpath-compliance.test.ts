import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname } from 'node:path';
import { describe, expect, test } from 'vitest';
import { ABSENT, parsePlace } from '../src/matching/place.js';
import { makeRequest } from './support.js';

/** A case of the compliance suite for RFC 9535. Source: github.com/jsonpath-standard/jsonpath-compliance-test-suite, as a registry package ships it. */
interface ComplianceCase {
  readonly name: string;
  readonly selector: string;
  readonly document?: unknown;
  readonly result?: readonly unknown[];
  readonly results?: readonly (readonly unknown[])[];
  readonly invalid_selector?: boolean;
}

const packageFile = createRequire(import.meta.url).resolve('jsonpath-rfc9535/package.json');
const suite = `${dirname(packageFile)}/src/__tests__/jsonpath-compliance-test-suite/cts.json`;
const { tests } = JSON.parse(readFileSync(suite, 'utf8')) as { tests: readonly ComplianceCase[] };

/** What the place `json SELECTOR` of a condition reads; null: it is refused. Places are written without blanks around them. */
function readPlace({ selector, document }: ComplianceCase): readonly unknown[] | null {
  const parsed = parsePlace(`json ${selector}`, { path: null, text: null, namespaces: {}, at: [] });
  if (parsed.kind === 'refused') return null;
  const { place } = parsed;
  const read = place.read(makeRequest('POST /x', { json: document }), null);
  if (place.isMany) return read as readonly unknown[];
  return read === ABSENT ? [] : [read];
}

describe('the place `json` keeps to RFC 9535 by its compliance suite', () => {
  const trimmed = tests.filter(({ selector }) => selector !== selector.trim());

  test('which has hundreds of cases; a place has no blanks around it to be refused', () => {
    expect(tests.length).toBeGreaterThanOrEqual(687);
    expect(trimmed.every((own) => own.invalid_selector === true)).toBe(true);
  });

  test.each(tests.filter((own) => !trimmed.includes(own)).map((own) => [own.name, own] as const))(
    '%s',
    (_name, own) => {
      const read = readPlace(own);
      // An empty place reads the whole body.
      if (own.selector === '') expect(read).toEqual([own.document]);
      else if (own.invalid_selector === true) expect(read).toBeNull();
      else expect(own.results ?? [own.result]).toContainEqual(read);
    },
  );
});
