import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { parse } from 'yaml';
import { commitCall, explainCall, findOperation, Lanes } from '../src/index.js';
import { load, makeRequest, serviceOf } from './support.js';

const DOCUMENT = readFileSync(new URL('../../../docs/conditions.md', import.meta.url), 'utf8');
const ROW = /^\| `(.*?)` \| `(.*?)` \| `(.*?)` \| (yes|no) \|/;

interface Row {
  readonly place: string;
  readonly comparison: string;
  readonly call: string;
  readonly holds: string;
}

const ROWS: readonly Row[] = DOCUMENT.split('\n').flatMap((line) => {
  const [, place, comparison, call, holds] =
    ROW.exec(line.replaceAll('\\|', '\u0000'))?.map((cell) => cell.replaceAll('\u0000', '|')) ?? [];
  return place === undefined ? [] : [{ place, comparison: comparison ?? '', call: call ?? '', holds: holds ?? '' }];
});

/** `POST /tides/a; content-type: text/plain < body` */
function toRequest(call: string) {
  const at = call.indexOf(' < ');
  const [line = '', ...headers] = (at < 0 ? call : call.slice(0, at)).split(/; (?=[\w-]+: )/);
  const body = at < 0 ? null : call.slice(at + 3).replaceAll('\\r\\n', '\r\n');
  const request = makeRequest(line, body === null ? {} : { body });
  const flat = headers.flatMap((header) => [
    header.slice(0, header.indexOf(':')),
    header.slice(header.indexOf(':') + 2),
  ]);
  (request as { rawHeaders: readonly string[] }).rawHeaders = flat;
  request.lane = request.header('upsetter-lane') ?? 'main';
  request.clientAddress = '127.0.0.1';
  return request;
}

describe('docs/conditions.md', () => {
  test('has rows', () => {
    expect(ROWS.length).toBeGreaterThan(100);
    expect(DOCUMENT.split('\n').filter((line) => line.startsWith('| `'))).toHaveLength(ROWS.length);
  });

  test.each(ROWS)('$place: $comparison on $call: $holds', ({ place, comparison, call, holds }) => {
    const when = JSON.stringify({ [place]: parse(comparison) });
    const service = load(serviceOf('"* /tides/{port}"', `- case: asked\n  when: ${when}\n  answer: {}`));
    const request = toRequest(call);
    const destination = findOperation(service, request);
    if (destination.kind !== 'operation') throw new Error(destination.kind);
    const lane = new Lanes('seed').get(request.lane);
    const decision = commitCall(service, destination.operation, request, lane, request.receivedAtMs);
    expect(decision.kind).toBe(holds === 'yes' ? 'answered' : 'stray');
    // Why says the same as matching did.
    const [explained] = explainCall(service, request, decision.found).ladder[0]?.cases ?? [];
    expect(explained?.outcome).toBe(holds === 'yes' ? 'answered' : 'failed');
  });
});
