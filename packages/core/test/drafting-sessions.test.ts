import { describe, expect, test } from 'vitest';
import { Lanes } from '../src/index.js';
import { draftSession, type HeardCall, momentOf } from './session.js';
import { answerJson, decide, load } from './support.js';

const ons = (calls: readonly HeardCall[], more = {}): string[] =>
  load(draftSession(calls, 'alive', more).text).operations.map(({ on }) => on);
const read = (path: string, json: unknown = {}, status = 200): HeardCall => ({ call: `GET ${path}`, json, status });
const ID = (n: number): string => `00000000-0000-4000-8000-00000000000${n}`;

describe('path templates', () => {
  test.each<[string, readonly HeardCall[], readonly string[]]>([
    [
      'a number, a uuid, a code',
      [read('/a/12'), read(`/b/${ID(1)}`), read('/c/N7')],
      ['GET /a/{aId}', 'GET /b/{bId}', 'GET /c/{cId}'],
    ],
    [
      'a word that answers use as a key',
      [read('/ports', [{ id: 'skerry' }, { id: 'gull' }]), read('/ports/gull/tides')],
      ['GET /ports', 'GET /ports/{portId}/tides'],
    ],
    [
      'literal words beside parameters',
      [read('/berths/N7'), read('/berths/free')],
      ['GET /berths/{berthId}', 'GET /berths/free'],
    ],
    [
      'a word answered 404 beside known ones',
      [read('/berths/N7'), read('/berths/lost', {}, 404)],
      ['GET /berths/{berthId}'],
    ],
    [
      'many of a kind',
      ['ann', 'bo', 'cy', 'di', 'eve', 'flo', 'gus'].map((name) => read(`/crew/${name}`, { rank: 1 })),
      ['GET /crew/{crewId}'],
    ],
    [
      'few words are names of operations',
      [read('/reports/daily'), read('/reports/weekly')],
      ['GET /reports/daily', 'GET /reports/weekly'],
    ],
    ['nested things', [read(`/a/${ID(1)}/b/${ID(2)}`)], ['GET /a/{aId}/b/{bId}']],
    ['a version is no value', [read('/api/v2/lamps')], ['GET /api/v2/lamps']],
  ])('%s', (_rule, calls, expected) => expect(ons(calls)).toEqual(expected));

  test('are overruled by their ids', () => {
    const calls = [read('/berths/N7'), read('/berths/free')];
    expect(ons(calls, { overrules: new Map([['path:/berths/{}', 'literal']]) })).toEqual([
      'GET /berths/N7',
      'GET /berths/free',
    ]);
    expect(ons(calls, { overrules: new Map([['path:/berths/free', 'value']]) })).toEqual(['GET /berths/{berthId}']);
  });

  test('name operations by what they do', () => {
    const calls: HeardCall[] = [
      read('/lamps', [{ id: 1 }]),
      { call: 'POST /lamps', sent: {}, json: { id: 1 }, status: 201 },
      read('/lamps/1', { id: 1 }),
      { call: 'PUT /lamps/1', sent: {}, json: { id: 1 } },
      { call: 'PATCH /lamps/1', sent: {}, json: { id: 1 } },
      { call: 'DELETE /lamps/1', status: 204 },
      { call: 'POST /lamps/1/light', json: { id: 1 } },
      read('/lamps/1/keepers', []),
      { call: 'POST /login', sent: {}, json: {} },
    ];
    expect(load(draftSession(calls).text).operations.map(({ name }) => name)).toEqual([
      'listLamps',
      'createLamp',
      'readLamp',
      'replaceLamp',
      'changeLamp',
      'removeLamp',
      'lightLamp',
      'listLampKeepers',
      'login',
    ]);
  });
});

test('a contract beside the session names paths, parameters and operations; the rest is named from what was heard', () => {
  const contract = `
openapi: 3.1.0
info: { title: Lamps, version: "1" }
servers: [{ url: "http://real/api" }]
paths:
  /towers/{tower}: { get: { operationId: lookAt, responses: {} } }
  /towers/{tower}/lamp: { put: { responses: {} } }
`;
  const calls: HeardCall[] = [
    read('/api/towers/old', { id: 'old' }),
    { call: 'PUT /api/towers/old/lamp', sent: { lit: true }, status: 204 },
    read('/keepers/7', { id: 7 }),
  ];
  const { operations } = load(draftSession(calls, 'alive', { contract }).text);
  expect(operations.map(({ name, on }) => `${name}: ${on}`)).toEqual([
    'lookAt: GET /api/towers/{tower}',
    'lampTower: PUT /api/towers/{tower}/lamp',
    'readKeeper: GET /keepers/{keeperId}',
  ]);
});

describe('what an answer is made from', () => {
  const create = (id: string, sent: Record<string, unknown>, i: number): HeardCall => ({
    call: 'POST /lamps',
    sent,
    status: 201,
    json: {
      id,
      name: sent['name'],
      kind: sent['kind'] ?? 'oil',
      note: `Lamp ${String(sent['name'])} is lit`,
      at: momentOf(i),
      until: new Date(Date.parse(momentOf(i)) + 3_600_000).toISOString(),
    },
    got: { location: `/lamps/${id}` },
  });
  const draft = draftSession([
    create(ID(1), { name: 'North', kind: 'gas' }, 0),
    create(ID(2), { name: 'South' }, 1),
    read(`/lamps/${ID(1)}`, { ...(create(ID(1), { name: 'North', kind: 'gas' }, 0).json as object) }),
  ]);

  test.each([
    ['an id made anew', 'id: "${uuid()}"'],
    ['an echo', 'name: "${call.json.name}"'],
    ['an echo with a default', `kind: "\${call.json.?kind.orValue('oil')}"`],
    ['an echo within a text', 'note: "Lamp ${call.json.name} is lit"'],
    ['the moment', 'at: "${now}"'],
    ['a moment to come', `until: "\${add(now, '1h')}"`],
    ['an address', 'location: "/lamps/${let.lamp.id}"'],
    ['what was made', 'json: "${let.lamp}"'],
  ])('%s', (_what, written) => expect(draft.text).toContain(written));

  test('and it is the same draft every time', () => {
    const again = draftSession([create(ID(1), { name: 'North' }, 0)]);
    expect(draftSession([create(ID(1), { name: 'North' }, 0)])).toEqual(again);
  });

  test.each<[string, readonly string[], string]>([
    ['numbers that count', ['41', '42'], `"\${next('createLamp id', 41)}"`],
    ['codes that count', ['BK-7', 'BK-8'], `"BK-\${next('createLamp id', 7)}"`],
    ['codes with leading zeros', ['BK-0007', 'BK-0008'], `"\${pattern('BK-\\\\d{4}')}"`],
    ['hexadecimal digits', ['9f0c2a7be1', '1b0d33e2c9'], `"\${pattern('[0-9a-f]{10}')}"`],
    ['letters and digits after a word', ['tok_a9Xe7Qp2Lm', 'tok_b1Cd3Ef5Gh'], `"\${pattern('tok_[A-Za-z0-9]{10}')}"`],
    ['letters, hardly any digit among them', ['ORD-d0452888', 'ORD-bdc9daad'], `"\${pattern('ORD-[a-f0-9]{8}')}"`],
  ])('keys made of %s', (_what, ids, written) => {
    const typed = (id: string): unknown => (/^\d+$/.test(id) ? Number(id) : id);
    const calls = ids.flatMap((id): HeardCall[] => [
      { call: 'POST /lamps', sent: { a: id.length }, status: 201, json: { id: typed(id), a: id.length } },
      read(`/lamps/${id}`, { id: typed(id), a: id.length }),
    ]);
    expect(draftSession(calls).text.replaceAll(/\\+/g, '\\')).toContain(`id: ${written.replaceAll(/\\+/g, '\\')}`);
  });
});

describe('lists are read from the rows', () => {
  const ROWS = [
    { id: 1, name: 'Petrel', quay: 'north', depth: 8, free: true },
    { id: 2, name: 'Anna', quay: 'south', depth: 5, free: false },
    { id: 3, name: 'Sula', quay: 'north', depth: 6, free: true },
    { id: 4, name: 'Kite', quay: 'south', depth: 9, free: true },
  ];
  const all = read('/berths', ROWS);
  const item = read('/berths/1', ROWS[0]);
  const told = (...calls: HeardCall[]): string | undefined => {
    const draft = draftSession([all, item, ...calls]);
    expect(draft.fidelity?.differences).toEqual([]);
    return draft.decisions.findLast(({ concluded }) => concluded.startsWith('lists '))?.concluded;
  };
  const some = (keep: (row: (typeof ROWS)[number]) => boolean) => ROWS.filter(keep);

  test.each<[string, HeardCall, string]>([
    [
      'by a parameter',
      read(
        '/berths?quay=north',
        some(({ quay }) => quay === 'north'),
      ),
      'quay equals query quay; in order of arrival',
    ],
    [
      'by a truth',
      read(
        '/berths?free=false',
        some(({ free }) => !free),
      ),
      'free equals query free; in order of arrival',
    ],
    [
      'by part of a text',
      read(
        '/berths?name=et',
        some(({ name }) => name.includes('et')),
      ),
      'name contains query name; in order of arrival',
    ],
    [
      'by a least number',
      read(
        '/berths?depth=8',
        some(({ depth }) => depth >= 8),
      ),
      'depth is at least query depth; in order of arrival',
    ],
    [
      'by a field that the call names',
      read(
        '/berths?sort=-name',
        [...ROWS].sort((a, b) => (a.name < b.name ? 1 : -1)),
      ),
      'by the field that query sort names',
    ],
    ['in pages', read('/berths?limit=2&offset=1', ROWS.slice(1, 3)), 'in order of arrival; in pages of 1000'],
    ['in numbered pages', read('/berths?page=2&per_page=3', ROWS.slice(3)), 'in pages of 1000'],
  ])('%s', (_what, call, expected) => expect(told(call)).toContain(expected));

  test('that are always the same part of them', () => {
    expect(
      told(
        read(
          '/berths/free',
          some(({ free }) => free),
        ),
      ),
    ).toBe('lists berths by free == true; in order of arrival');
    expect(
      told(
        read(
          '/berths/deep',
          some(({ quay }) => quay !== 'south'),
        ),
      ),
    ).toContain("quay == 'north'");
  });

  test('with some of their fields, and how many there are', () => {
    const draft = draftSession([
      item,
      all,
      read('/berths/names', { names: ROWS.map(({ id, name, depth }) => ({ id, name, depth })), total: 4 }),
    ]);
    expect(draft.text).toContain(`.map(item, {'id': item.id, 'name': item.name, 'depth': item.depth})`);
    expect(draft.text).toContain('total: "${size(let.berths)}"');
  });
});

describe('what changes what', () => {
  const play = (calls: readonly HeardCall[], level: 'as-heard' | 'carried' | 'alive' = 'alive') => {
    const draft = draftSession(calls, level);
    expect(draft.fidelity?.differences).toEqual([]);
    return { draft, service: load(draft.text), lanes: new Lanes('s') };
  };

  test('a PATCH on one thing leaves the others alone, and a read that is repeated or missing shifts nothing', () => {
    const lamp = (id: number, lit: boolean) => ({ id, lit });
    const { service, lanes } = play(
      [
        read('/lamps/1', lamp(1, false)),
        read('/lamps/2', lamp(2, false)),
        { call: 'PATCH /lamps/1', sent: { lit: true }, status: 204 },
        read('/lamps/1', lamp(1, true)),
        read('/lamps/2', lamp(2, false)),
      ],
      'as-heard',
    );
    decide(service, 'PATCH /lamps/1', { json: { lit: true } }, lanes);
    for (let i = 0; i < 3; i++) {
      expect(answerJson(service, 'GET /lamps/1', {}, lanes)).toEqual(lamp(1, true));
      expect(answerJson(service, 'GET /lamps/2', {}, lanes)).toEqual(lamp(2, false));
    }
  });

  test('the same write that leaves different things is told by what it found', () => {
    const press: HeardCall = { call: 'POST /lens/turn', status: 204 };
    const { service, lanes } = play(
      [
        read('/lens', { turns: 0 }),
        press,
        read('/lens', { turns: 1 }),
        press,
        read('/lens', { turns: 2 }),
        press,
        press,
        read('/lens', { turns: 4 }),
      ],
      'as-heard',
    );
    const lens = (): unknown => (answerJson(service, 'GET /lens', {}, lanes) as { turns: number }).turns;
    expect(lens()).toBe(0);
    decide(service, 'POST /lens/turn', {}, lanes);
    expect([lens(), lens()]).toEqual([1, 1]);
    for (let i = 0; i < 3; i++) decide(service, 'POST /lens/turn', {}, lanes);
    expect(lens()).toBe(4);
  });

  test('one thing changes another: the row it names is set', () => {
    const berth = (free: boolean) => ({ id: 'N7', free });
    const booking = (n: number) => ({ id: n, berthId: 'N7', state: 'held' });
    const { draft, service, lanes } = play([
      read('/berths/N7', berth(true)),
      { call: 'POST /bookings', sent: { berthId: 'N7' }, status: 201, json: booking(1) },
      read('/berths/N7', berth(false)),
      { call: 'POST /bookings', sent: { berthId: 'N7' }, status: 409, json: { error: 'Berth N7 is taken' } },
      { call: 'POST /bookings/1/release', json: { ...booking(1), state: 'free' } },
      read('/berths/N7', berth(true)),
      read('/bookings/1', { ...booking(1), state: 'free' }),
    ]);
    expect(draft.text).toContain('row free: false');
    expect(draft.text).toContain('error: "Berth ${call.json.berthId} is taken"');
    expect(answerJson(service, 'POST /bookings', { json: { berthId: 'N7' } }, lanes)).toMatchObject({ state: 'held' });
    expect(answerJson(service, 'GET /berths/N7', {}, lanes)).toEqual(berth(false));
  });

  test('a name that is taken is refused because a row has it', () => {
    const star = (id: number, name: string): HeardCall => ({
      call: 'POST /stars',
      sent: { name },
      status: 201,
      json: { id, name },
    });
    const { draft, service, lanes } = play([
      star(1, 'Anchor'),
      star(2, 'Kite'),
      { call: 'POST /stars', sent: { name: 'Anchor' }, status: 409, json: { error: 'taken' } },
      read('/stars/1', { id: 1, name: 'Anchor' }),
    ]);
    expect(draft.text).toContain('data.stars.exists(item, item.name == call.json.name)');
    expect(decide(service, 'POST /stars', { json: { name: 'Vega' } }, lanes)).toMatchObject({
      answer: { status: 201 },
    });
    expect(decide(service, 'POST /stars', { json: { name: 'Vega' } }, lanes)).toMatchObject({
      answer: { status: 409 },
    });
  });

  test('a thing that is one of its kind is kept as a state', () => {
    const till = (note: string) => ({ open: true, note });
    const put = (note: string): HeardCall => ({ call: 'PUT /till', sent: till(note), json: till(note) });
    const { service, lanes } = play([
      read('/till', till('a')),
      put('b'),
      read('/till', till('b')),
      put('c'),
      read('/till', till('c')),
    ]);
    expect(answerJson(service, 'GET /till', {}, lanes)).toEqual(till('a'));
    decide(service, 'PUT /till', { json: till('z') }, lanes);
    expect(answerJson(service, 'GET /till', {}, lanes)).toEqual(till('z'));
  });

  test('a list within a thing gains what is added and loses what is taken away', () => {
    const order = (...lines: string[]) => ({ id: 7, lines: lines.map((bread, i) => ({ no: i + 1, bread })) });
    const add = (no: number, bread: string): HeardCall => ({
      call: 'POST /orders/7/lines',
      sent: { bread, no },
      status: 201,
      json: { no, bread },
    });
    const { service, lanes } = play([
      read('/orders/7', order()),
      add(1, 'rye'),
      add(2, 'oat'),
      read('/orders/7', order('rye', 'oat')),
      { call: 'DELETE /orders/7/lines/1', status: 204 },
      read('/orders/7', { id: 7, lines: [{ no: 2, bread: 'oat' }] }),
    ]);
    decide(service, 'POST /orders/7/lines', { json: { no: 5, bread: 'bun' } }, lanes);
    decide(service, 'POST /orders/7/lines', { json: { no: 6, bread: 'roll' } }, lanes);
    decide(service, 'DELETE /orders/7/lines/5', {}, lanes);
    expect(answerJson(service, 'GET /orders/7', {}, lanes)).toEqual({ id: 7, lines: [{ no: 6, bread: 'roll' }] });
  });

  test('a version counts up from what it was', () => {
    const lamp = (version: number, name: string) => ({ id: 3, name, version });
    const patch = (version: number, name: string): HeardCall => ({
      call: 'PATCH /lamps/3',
      sent: { name },
      json: lamp(version, name),
    });
    const { draft } = play([
      read('/lamps/3', lamp(1, 'a')),
      patch(2, 'b'),
      patch(3, 'c'),
      read('/lamps/3', lamp(3, 'c')),
    ]);
    expect(draft.text).toContain('version: "${row.version + 1}"');
  });

  test('what goes on by itself goes by the time since it was begun', () => {
    const job = (n: number, state: string) => ({ id: n, state });
    const run = (n: number): HeardCall[] => [
      { call: 'POST /jobs', sent: {}, status: 202, json: job(n, 'waiting') },
      read(`/jobs/${n}`, job(n, 'waiting')),
      { ...read(`/jobs/${n}`, job(n, 'done')), after: 4 },
    ];
    const { draft } = play([...run(1), ...run(2)]);
    expect(draft.text).toContain('epoch(now) - epoch(state.jobSince[call.path.jobId]) >= 3');
    expect(draft.text).toContain('row state: waiting');
  });

  test('what goes on by itself and is removed then is gone after the removal, however fast the caller is', () => {
    const job = (state: string) => ({ id: 7, state });
    const { draft, service, lanes } = play(
      [
        { call: 'POST /jobs', sent: {}, status: 202, json: job('waiting') },
        read('/jobs/7', job('waiting')),
        { ...read('/jobs/7', job('done')), after: 4 },
        { call: 'DELETE /jobs/7', status: 204 },
        { ...read('/jobs/7', { reason: 'gone' }, 404), after: 9 },
      ],
      'as-heard',
    );
    expect(draft.text).toContain('>= 3');
    decide(service, 'POST /jobs', { json: {} }, lanes);
    expect(answerJson(service, 'GET /jobs/7', {}, lanes)).toEqual(job('waiting'));
    decide(service, 'DELETE /jobs/7', {}, lanes);
    expect(answerJson(service, 'GET /jobs/7', {}, lanes)).toEqual({ reason: 'gone' });
  });

  test('ids drawn with hardly a digit are the same ids, made anew', () => {
    const order = (id: string) => ({ id, lines: 0 });
    play([
      ...['ORD-cfefc2fe', 'ORD-d0452888'].flatMap((id): HeardCall[] => [
        { call: 'POST /orders', sent: {}, status: 201, json: order(id) },
        read(`/orders/${id}`, order(id)),
      ]),
    ]);
  });
});

describe('choices', () => {
  const CALLS: HeardCall[] = [
    read('/lamps/1', { id: 1 }),
    read('/health'),
    { call: 'DELETE /lamps/1', status: 500, json: {} },
    { call: 'OPTIONS /lamps', status: 204 },
  ];
  test.each<[string, string[], string[]]>([
    ['by path', ['/health'], ['GET /lamps/{lampId}', 'DELETE /lamps/{lampId}']],
    ['by method and path', ['DELETE /lamps/*'], ['GET /lamps/{lampId}', 'GET /health']],
    ['by status', ['status:5xx'], ['GET /lamps/{lampId}', 'GET /health']],
    ['by index', ['#0', '#2'], ['GET /health']],
    ['by type', ['type:application/json'], []],
    ['by host', ['host:127.0.0.1:9'], ['GET /lamps/{lampId}', 'DELETE /lamps/{lampId}', 'GET /health']],
  ])('leave out %s', (_what, without, expected) => {
    if (expected.length === 0) expect(() => ons(CALLS, { without })).toThrow('nothing that was heard can be drafted');
    else expect(ons(CALLS, { without })).toEqual(expected);
  });

  test('or keep some only', () => expect(ons(CALLS, { only: ['/health'] })).toEqual(['GET /health']));
});

test('a secret is never compared, only whether it is there', () => {
  const login = (password: string, status: number, json: unknown): HeardCall => ({
    call: 'POST /login',
    sent: { user: 'ida', password },
    status,
    json,
  });
  const draft = draftSession([
    login('x1', 200, { ok: true }),
    { call: 'POST /login', sent: { user: 'ida' }, status: 400, json: { ok: false } },
  ]);
  expect(draft.text).not.toContain('x1');
  expect(draft.text).toContain('json $.password');
});

test('answers with and without a cookie are told apart by it, whatever it holds', () => {
  const cookie = { cookie: 'oven=4f1c9a7be2d0' };
  const { text, fidelity } = draftSession([
    { call: 'GET /loaves', status: 403, json: { reason: 'no session' } },
    { call: 'POST /mixes', headers: cookie, sent: { flour: 'rye' }, json: { flour: 'rye' } },
    { call: 'GET /loaves', headers: cookie, json: { warm: true } },
  ]);
  expect(text).toContain('told apart by cookie oven');
  expect(text).not.toContain('4f1c9a7be2d0');
  expect(fidelity?.asHeard).toBe(3);
});
