import { describe, expect, test } from 'vitest';
import {
  acceptDifference,
  adoptDifference,
  listTrialChanges,
  requireService,
  runTrial,
  type TrialAnswer,
  type TriedStep,
} from '../src/index.js';

const FILE = `upsetter: 1
service: mill
operations:
  readSack:
    on: GET /sacks/{id}
    cases:
      - case: there # the usual one
        answer:
          headers: { cache-control: no-store, x-mill: "1" }
          json: { id: S1, corn: rye, weight: 12, from: { farm: "\${call.path.id}" } }
      - case: file
        when: { query x: 1 }
        answer: { json: ./sacks.json }
      - case: turns
        when: { query x: 2 }
        answer: { turns: { list: [{ status: 200 }] } }
`;
const FILES = { './sacks.json': { kind: 'text' as const, content: '{ "a": [1, 2] }' } };
const got = (body: unknown, headers: string[] = [], status = 200): TrialAnswer => ({
  status,
  headers: ['content-type', 'application/json', ...headers],
  body: JSON.stringify(body),
});
const adopt = (at: string, answer: TrialAnswer, name = 'there') =>
  adoptDifference({ text: FILE, files: FILES }, { operation: 'readSack', case: name, at }, answer);

describe('a difference is adopted', () => {
  test.each<[string, TrialAnswer, RegExp]>([
    ['header cache-control', got({}), /headers: \{ x-mill: "1" \}/],
    ['header cache-control', got({}, ['Cache-Control', 'max-age=60']), /cache-control: max-age=60/],
    ['json $.weight', got({ weight: '12 kg' }), /weight: 12 kg/],
    ['json $.corn', got({}), /json: \{ id: S1, weight: 12, from:/],
    ['json $.corn', got({ corn: '${x}' }), /corn: "\$\$\{x\}"/],
    ['json $.from.farm', got({ from: { farm: 'Hillside' } }), /from: \{ farm: Hillside \}/],
    [
      'status',
      got({ title: 'gone' }, ['x-other', '1'], 410),
      /answer:\n {10}status: 410\n {10}json:\n {12}title: gone\n/,
    ],
  ])('%s', (at, answer, shape) => {
    const { text } = adopt(at, answer);
    expect(text.replaceAll('{ ', '{ ')).toMatch(shape);
    expect(text).toContain('# the usual one');
    requireService(text, FILES);
  });

  test('in a body that stands in a file of its own', () => {
    expect(
      JSON.parse(adopt('json $.a[1]', got({ a: [1, 'two'] }), 'file').files['./sacks.json']?.content ?? ''),
    ).toEqual({
      a: [1, 'two'],
    });
  });

  test.each<[string, TrialAnswer, string, RegExp]>([
    ['status', got({}), 'turns', /in turns: change it by hand/],
    ['status', got({}), 'none', /no case none/],
    ['header content-type', got({}, []), 'file', /^(?!$)/],
    ['header x-none', { ...got({}), headers: [] }, 'there', /does not set x-none itself/],
    ['header set-cookie', got({}, ['set-cookie', 'a=b']), 'there', /is a secret/],
    ['json $.corn.kind', got({ corn: { kind: 1 } }), 'there', /an expression makes what stands/],
  ])('%s: unless it has to be changed by hand', (at, answer, name, message) => {
    if (name === 'file') expect(adopt(at, answer, name).text).toContain('content-type: application/json');
    else expect(() => adopt(at, answer, name)).toThrow(message);
  });

  test('as it was heard, whatever its body is', () => {
    const whole = (type: string, body: string | null) =>
      adopt('status', { status: 200, headers: type === '' ? [] : ['content-type', type], body }).text;
    expect(whole('application/xml', '<a/>')).toContain('xml: <a/>');
    expect(whole('text/csv', 'a;b')).toMatch(/content-type: text\/csv\n {10}text: a;b/);
    expect(whole('application/problem+json', '{"title":"no"}')).toMatch(/problem:\n {12}title: no/);
    expect(whole('', null)).toContain('none: true');
  });
});

test('a difference is accepted in a case, or in all of an operation, and once for each place', () => {
  const once = acceptDifference(FILE, 'readSack', 'there', { at: 'status', because: 'known' });
  const twice = acceptDifference(once, 'readSack', 'there', { at: 'status', because: 'known for long', in: 'staging' });
  const definition = requireService(
    acceptDifference(twice, 'readSack', null, { at: 'header x', because: 'ours' }),
    FILES,
  ).definition.operations['readSack'];
  expect(definition?.cases[0]?.accept).toEqual([{ at: 'status', because: 'known for long', in: 'staging' }]);
  expect(definition?.accept).toEqual([{ at: 'header x', because: 'ours' }]);
  expect(() => acceptDifference(FILE, 'readSack', 'none', { at: 'status', because: 'x' })).toThrow(/no case none/);
  expect(() => acceptDifference(FILE, 'none', null, { at: 'status', because: 'x' })).toThrow(/no operation none/);
});

test('what is accepted is told, and lets the step pass in its environment', async () => {
  const text = acceptDifference(FILE.replace(/ {6}- case: file[\s\S]*/, ''), 'readSack', 'there', {
    at: 'status',
    because: 'known',
    in: 'staging',
  });
  const run = async (environment: string) => {
    const steps: TriedStep[] = [];
    const send = async () => ({ answer: got({ id: 'S1', corn: 'rye', weight: 1, from: {} }, [], 500), tookMs: 1 });
    for await (const step of runTrial(requireService(text), { writes: false, hostile: false, environment }, send))
      steps.push(step);
    return steps[0];
  };
  expect(await run('staging')).toMatchObject({
    outcome: 'accepted',
    differences: [{ at: 'status', accepted: 'known' }],
  });
  expect(await run('default')).toMatchObject({ outcome: 'differs', differences: [{ at: 'status', accepted: null }] });
});

test('what changed from one trial to the next is told by steps, not by sums', () => {
  const step = (name: string, outcome: TriedStep['outcome'], ...places: string[]): TriedStep => ({
    operation: 'a',
    kind: 'case',
    name,
    outcome,
    reason: null,
    differences: places.map((at) => ({ at, message: String(Math.random()), rule: null, accepted: null })),
    request: null,
    wanted: null,
    got: null,
    tookMs: 0,
  });
  const before = [
    step('same', 'differs', 'status'),
    step('other', 'differs', 'status'),
    step('mended', 'differs', 'header x'),
    step('broken', 'holds'),
    step('gone', 'holds'),
    step('silent', 'not tried'),
  ];
  const now = [
    step('same', 'differs', 'status'),
    step('other', 'differs', 'json $.a'),
    step('mended', 'accepted', 'header x'),
    step('broken', 'differs', 'status'),
    step('fresh', 'holds'),
    step('silent', 'not tried'),
  ];
  expect(listTrialChanges(before, now).map(({ name, what, differences }) => [name, what, differences[0]?.at])).toEqual([
    ['other', 'changed', 'json $.a'],
    ['mended', 'ended', 'header x'],
    ['broken', 'began', 'status'],
    ['fresh', 'new', undefined],
    ['gone', 'gone', undefined],
  ]);
});

const LINKED = `openapi: 3.1.0
info: { title: Mill, version: "1" }
paths:
  /orders:
    get:
      operationId: listOrders
      responses:
        "200":
          description: all
          content: { application/json: { schema: { type: object } } }
          links:
            newest: { operationId: readSack, parameters: { id: "$response.body#/newest/sack", path.mill: north } }
            bySource: { operationRef: "#/paths/~1corn/get", parameters: { query.after: "$response.header.x-next", kind: "$request.query.kind" } }
  /mills/{mill}/sacks/{id}:
    get:
      operationId: readSack
      parameters: [{ name: mill, in: path, required: true, schema: { type: string } }, { name: id, in: path, required: true, schema: { type: string } }]
      responses: { "200": { description: one } }
  /corn:
    get:
      parameters: [{ name: kind, in: query, required: true, schema: { type: string } }]
      responses: { "200": { description: some } }
`;
const LINKED_FILE = `upsetter: 1
service: mill
contract: ./mill.yaml
operations:
  listOrders: { on: GET /orders, cases: [{ case: all, answer: { json: { orders: [{ id: 1, sack: a }, { id: 2 }] } } }] }
  readSack:
    on: GET /mills/{mill}/sacks/{sack}
    cases:
      - case: special
        when: { path sack: S9 }
        answer: { none: true }
      - case: any
        answer: { none: true }
  readCorn: { on: GET /corn, cases: [{ case: some, answer: { none: true } }] }
`;

describe('a trial', () => {
  const run = async (answer: (target: string) => TrialAnswer): Promise<TriedStep[]> => {
    const service = requireService(LINKED_FILE, { './mill.yaml': { kind: 'text', content: LINKED } });
    const steps: TriedStep[] = [];
    const send = async ({ target }: { target: string }) => ({ answer: answer(target), tookMs: 1 });
    for await (const step of runTrial(service, { writes: false, hostile: false, environment: 'x' }, send))
      steps.push(step);
    return steps;
  };

  test("carries values by the contract's links, but not to what a case asks for itself", async () => {
    const steps = await run((target) =>
      target.startsWith('/orders')
        ? got({ orders: [], newest: { sack: 'S 7' } }, ['x-next', 'k3'])
        : { status: 200, headers: [], body: null },
    );
    expect(steps.map(({ name, request }) => `${name} ${request?.target}`)).toEqual([
      'all /orders',
      'some /corn?kind=kind&after=k3',
      'special /mills/north/sacks/S9',
      'any /mills/north/sacks/S%207',
    ]);
  });

  test('holds each item of a list to what all items of the case have', async () => {
    const [all] = await run(() => got({ orders: [{ id: 1 }, { id: '2', sack: 'b' }, {}, { id: '4' }] }));
    expect(all?.differences.map(({ at, message }) => `${at} ${message}`)).toEqual([
      'json $.orders[1].id is "2"; the case has 1',
      'json $.orders[2].id is missing; the case has it',
    ]);
  });
});
