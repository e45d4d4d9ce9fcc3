import { describe, expect, test } from 'vitest';
import { answerThisCall, findOperation, requireService } from '../src/index.js';
import { caseFor, load, makeRequest, type Sent } from './support.js';

const FILE = `# the desk
upsetter: 1
service: berth-desk
access: { key: { query: key, is: k-1 } }
datasets: { vessels: { key: imo, rows: [{ imo: "1" }] } }
resources: { vessels: { at: /vessels } }
operations:
  readBerth:
    on: GET /berths/{berthId}
    cases:
      # the quay in the north
      - case: north
        when: { path berthId: { like: "N*" }, query day: today }
        answer: { json: {} } # nothing yet
      - case: keyed
        when: { path berthId: free, header accept: { has: xml } }
        answer: { xml: "<a/>" }
  book:
    on: POST /bookings
    cases: [{ case: booked, answer: { status: 201, none: true } }]
  empty: { on: "PUT /berths/{berthId}", cases: [] }
`;

/** What comes of answering a call: operation, case, its conditions, and whether the new file answers that call by it. */
function answered(line: string, sent: Sent = {}, caseName: string | null = null) {
  const service = requireService(FILE);
  const request = makeRequest(line, sent);
  const {
    text,
    operation,
    case: name,
  } = answerThisCall(FILE, service, {
    request,
    found: null,
    caseName,
    answer: { status: 409, json: { told: '$${not an expression}' } },
  });
  const after = load(text);
  const own = after.definition.operations[operation];
  expect(caseFor(after, line, sent)).toBe(name);
  expect(text).toContain('# the desk');
  expect(text).toContain('# the quay in the north');
  const conditions = own?.cases.find((item) => item.case === name)?.when;
  const when = conditions === undefined ? null : mapValues(conditions);
  return { operation, name, when, on: own?.on, cases: own?.cases.map((item) => item.case) };
}

/** A bare value is `is` once it is loaded. */
function mapValues(when: object): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(when).map(([place, comparison]) => [place, (comparison as { is: unknown }).is]),
  );
}

describe('a call that gets a case of its own', () => {
  test('is told by what the closest case asked and did not find', () => {
    expect(answered('GET /berths/N7?day=monday')).toMatchObject({
      operation: 'readBerth',
      name: 'monday',
      when: { 'query day': 'monday' },
      cases: ['north', 'keyed', 'monday'],
    });
    expect(answered('GET /berths/free', { headers: { accept: 'text/plain' } })).toMatchObject({
      when: { 'header accept': 'text/plain' },
    });
  });

  test('is told by its path where a case answered it, and stands before that', () => {
    const sent = { json: { vessel: 'Petrel', crew: [1] } };
    expect(answered('GET /berths/N7?day=today', {}, 'north')).toMatchObject({
      when: { 'path berthId': 'N7' },
      cases: ['N7', 'north', 'keyed'],
    });
    expect(answered('POST /bookings', sent, 'booked')).toMatchObject({
      when: { 'json $.vessel': 'Petrel' },
      cases: ['Petrel', 'booked'],
    });
  });

  test('needs no condition where nothing else is answered there', () => {
    expect(answered('GET /tides')).toMatchObject({
      operation: 'readTides',
      on: 'GET /tides',
      name: 'answered',
      when: null,
    });
    expect(answered('DELETE /berths/N7')).toMatchObject({
      on: 'DELETE /berths/{berthId}',
      name: 'answered',
      when: null,
    });
  });

  test('gets an operation of its own where a resource answers, with the resource behind it', () => {
    expect(answered('GET /vessels/9', {}, 'resource')).toMatchObject({
      on: 'GET /vessels/{imo}',
      when: { 'path imo': '9' },
    });
  });

  test('is never told by a secret', () => {
    const { when } = answered('POST /bookings?key=k-1&day=monday', {}, 'booked');
    expect(when).toEqual({ 'query day': 'monday' });
  });

  test('twice has two names', () => {
    const request = makeRequest('GET /tides');
    const call = { request, found: null, caseName: null, answer: { none: true } };
    const once = answerThisCall(FILE, requireService(FILE), call);
    const service = requireService(once.text);
    expect(findOperation(service, request).kind).toBe('operation');
    const twice = answerThisCall(once.text, service, { ...call, caseName: 'answered' });
    expect(twice).toMatchObject({ operation: 'readTides', case: 'answered 2' });
  });
});
