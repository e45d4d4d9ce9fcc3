import { describe, expect, test } from 'vitest';
import { Lanes } from '../src/index.js';
import { decide, load, mistakes, type Sent } from './support.js';

const DATA = `
upsetter: 1
service: harbour-office
datasets:
  vessels:
    key: imo
    rows:
      - { imo: "9321483", name: Petrel, length: 80, port: North, berth: { quay: East }, tags: [tug, old] }
      - { imo: "9321484", name: Sula, length: 120.5, port: South, left: "2026-03-02T09:00:00+01:00" }
      - { imo: "9321485", name: Anna Grey, length: 64, port: North, left: "2026-03-02T08:30:00Z" }
      - { imo: "9321486", name: Gannet, length: 9, port: East }
  bookings:
    key: no
    rows:
      - { no: 1, imo: "9321483", berth: N7 }
      - { no: 2, imo: "9321484", berth: S1 }
      - { no: 7, imo: "9321483", berth: N9 }
`;

const SERVED = load(`${DATA}
resources:
  vessels:
    at: /vessels
    relations: { bookings: { of: bookings, where: { imo: imo } } }
    fits:
      type: object
      required: [name, length]
      properties: { name: { type: string, minLength: 1 }, length: { type: number, exclusiveMinimum: 0 } }
  bookings:
    at: [/bookings, "/vessels/{imo}/bookings"]
    relations: { vessel: { of: vessels, where: { imo: imo } } }
    defaults: { state: expected }
    stamp: { changed: "\${now}" }
operations: {}
`);

interface Told {
  readonly status: number;
  readonly headers: Readonly<Record<string, string>>;
  readonly json: never;
}

function tell(service: typeof SERVED, line: string, sent: Sent = {}, lanes = new Lanes('seed')): Told {
  const decision = decide(service, line, sent, lanes);
  if (decision.kind !== 'answered') throw new Error(JSON.stringify(decision));
  const { status, headers, body } = decision.answer;
  const pairs = headers.flatMap((name, i) => (i % 2 === 0 ? [[name.toLowerCase(), headers[i + 1] ?? '']] : []));
  return {
    status,
    headers: Object.fromEntries(pairs),
    json: (body === null ? null : JSON.parse(String(body))) as never,
  };
}

/** The names of the vessels on a page. */
function namesOf(query: string): string[] {
  const { items } = tell(SERVED, `GET /vessels?${query}`).json as { items: { name: string }[] };
  return items.map(({ name }) => name);
}

describe('a list of a resource', () => {
  test.each([
    ['port=North', 'Petrel, Anna Grey'],
    ['port=North&port=East', 'Petrel, Anna Grey, Gannet'],
    ['length=80', 'Petrel'],
    ['length=80.0', 'Petrel'],
    ['berth.quay=East', 'Petrel'],
    ['length.above=64&length.below=120.5', 'Petrel'],
    ['length.from=64&length.to=80', 'Petrel, Anna Grey'],
    ['name.from=P', 'Petrel, Sula'],
    ['left.above=2026-03-02T08:10:00Z', 'Anna Grey'],
    ['port.isnt=North', 'Sula, Gannet'],
    ['port.isnt=North&port.isnt=East', 'Sula'],
    ['name.in=Sula,Gannet', 'Sula, Gannet'],
    ['name.like=*a*e?', 'Anna Grey, Gannet'],
    ['name.starts=An', 'Anna Grey'],
    ['name.ends=l', 'Petrel'],
    ['name.has=nn', 'Anna Grey, Gannet'],
    ['tags.has=tug', 'Petrel'],
    ['left.present=true', 'Sula, Anna Grey'],
    ['left.present=false', 'Petrel, Gannet'],
    ['search=GREY', 'Anna Grey'],
    ['search=9321486', 'Gannet'],
    ['colour=red', 'Petrel, Sula, Anna Grey, Gannet'],
    ['sort=name', 'Anna Grey, Gannet, Petrel, Sula'],
    ['sort=-length', 'Sula, Petrel, Anna Grey, Gannet'],
    ['sort=port,-length', 'Gannet, Petrel, Anna Grey, Sula'],
    ['sort=-left', 'Anna Grey, Sula, Petrel, Gannet'],
    ['sort=left', 'Sula, Anna Grey, Petrel, Gannet'],
    ['page=2&size=3', 'Gannet'],
    ['offset=1&limit=2', 'Sula, Anna Grey'],
    ['page=9', ''],
  ])('by %s is %s', (query, names) => {
    expect(namesOf(query).join(', ')).toBe(names);
  });

  test('tells how many there are, and where the next page is', () => {
    const { json } = tell(SERVED, 'GET /vessels?sort=name&size=3&port.isnt=East');
    expect(json).toMatchObject({ total: 3 });
    expect(json).not.toHaveProperty('next');
    const paged = tell(SERVED, 'GET /vessels?sort=name&size=3').json as { next: string };
    expect(paged.next).toBe('/vessels?sort=name&size=3&page=2');
    expect(namesOf(paged.next.split('?')[1] ?? '')).toEqual(['Sula']);
    const sliced = tell(SERVED, 'GET /vessels?offset=1&limit=2').json as { next: string };
    expect(sliced.next).toBe('/vessels?offset=3&limit=2');
  });

  test('has the fields that are asked for, with related rows', () => {
    const { json } = tell(SERVED, 'GET /vessels?fields=name&with=bookings&size=1');
    expect(json).toMatchObject({
      items: [{ name: 'Petrel', bookings: [expect.objectContaining({ no: 1 }), expect.objectContaining({ no: 7 })] }],
    });
    expect(tell(SERVED, 'GET /bookings?with=vessel&size=1').json).toMatchObject({
      items: [{ no: 1, vessel: { name: 'Petrel' } }],
    });
  });

  test.each([
    ['page=two', 'query page: a whole number from 1 is expected, not "two"'],
    ['page=0', 'query page: a whole number from 1 is expected, not "0"'],
    ['limit=-1', 'query limit: a whole number from 1 is expected, not "-1"'],
    ['with=crew', 'query with: vessels has no relation "crew"; there is bookings'],
  ])('is refused for %s', (query, detail) => {
    expect(tell(SERVED, `GET /vessels?${query}`)).toMatchObject({ status: 400, json: { detail } });
  });

  test('below another row has the rows that belong to it, and is missing with it', () => {
    expect(tell(SERVED, 'GET /vessels/9321483/bookings').json).toMatchObject({ total: 2 });
    expect(tell(SERVED, 'GET /vessels/9321486/bookings').json).toMatchObject({ total: 0 });
    expect(tell(SERVED, 'GET /vessels/1/bookings')).toMatchObject({
      status: 404,
      json: { detail: 'vessels: imo 1' },
    });
    expect(tell(SERVED, 'GET /vessels/9321483/bookings/7').status).toBe(200);
    expect(tell(SERVED, 'GET /vessels/9321483/bookings/2').status).toBe(404);
  });
});

describe('a row of a resource', () => {
  test('is created with a key, its address, and what the file adds', () => {
    const lanes = new Lanes('seed');
    const made = tell(SERVED, 'POST /bookings', { json: { imo: '9321484', berth: 'S2' } }, lanes);
    expect(made).toMatchObject({ status: 201, headers: { location: '/bookings/8', etag: expect.any(String) } });
    expect(made.json).toEqual({
      no: 8,
      state: 'expected',
      imo: '9321484',
      berth: 'S2',
      changed: '2026-03-02T09:30:00.000Z',
    });
    expect(tell(SERVED, 'GET /bookings/8', {}, lanes)).toMatchObject({ status: 200, json: made.json });
    expect(tell(SERVED, 'GET /bookings/8').status).toBe(404);
    const below = tell(SERVED, 'POST /vessels/9321485/bookings', { json: { berth: 'N1' } }, lanes);
    expect(below).toMatchObject({ headers: { location: '/vessels/9321485/bookings/9' }, json: { imo: '9321485' } });
  });

  test('gets a uuid where keys are texts, the same in each run and another in each lane', () => {
    const create = (lane: string) =>
      tell(SERVED, 'POST /vessels', { json: { name: 'Tern', length: 4 }, lane }).json as { imo: string };
    expect(create('a').imo).toMatch(/^[0-9a-f-]{36}$/);
    expect(create('a').imo).toBe(create('a').imo);
    expect(create('a').imo).not.toBe(create('b').imo);
  });

  test.each([
    ['a key that is taken', { imo: '9321483', name: 'Tern', length: 4 }, 409, 'vessels: imo 9321483'],
    ['a row that does not fit', { name: '' }, 422, 'length is missing; name must NOT have fewer than 1 characters'],
    ['a list', [], 400, 'the body is no JSON object'],
  ])('is not created from %s', (_title, json, status, detail) => {
    expect(tell(SERVED, 'POST /vessels', { json })).toMatchObject({ status, json: { detail } });
  });

  test('that does not fit is refused with each field by its name and pointer', () => {
    const { json } = tell(SERVED, 'POST /vessels', { json: { name: '', length: -1 } });
    expect(json).toMatchObject({
      title: 'The row is not as it has to be',
      errors: [
        { field: 'name', pointer: '#/name' },
        { field: 'length', pointer: '#/length', detail: 'must be > 0' },
      ],
    });
  });

  test('is replaced as a whole, and keeps its key and its place', () => {
    const lanes = new Lanes('seed');
    expect(tell(SERVED, 'PUT /vessels/9321484', { json: { name: 'Skua', length: 7 } }, lanes)).toMatchObject({
      status: 200,
      json: { imo: '9321484', name: 'Skua', length: 7 },
    });
    const { items } = tell(SERVED, 'GET /vessels', {}, lanes).json as { items: { name: string }[] };
    expect(items.map(({ name }) => name)).toEqual(['Petrel', 'Skua', 'Anna Grey', 'Gannet']);
    expect(tell(SERVED, 'PUT /vessels/9321484', { json: { imo: '1', name: 'Skua', length: 7 } })).toMatchObject({
      status: 422,
      json: { detail: 'imo is 9321484 by the path, here it is "1"' },
    });
    expect(tell(SERVED, 'PUT /vessels/1', { json: { name: 'Skua', length: 7 } }).status).toBe(404);
  });

  test('that is replaced below another belongs to it still', () => {
    const lanes = new Lanes('seed');
    const put = tell(SERVED, 'PUT /vessels/9321483/bookings/7', { json: { berth: 'S3' } }, lanes);
    expect(put.json).toMatchObject({ no: 7, imo: '9321483', berth: 'S3' });
    expect(tell(SERVED, 'GET /vessels/9321483/bookings', {}, lanes).json).toMatchObject({ total: 2 });
  });

  test('is merged, or patched by operations', () => {
    const lanes = new Lanes('seed');
    const patch = (json: unknown, type = 'application/merge-patch+json') =>
      tell(SERVED, 'PATCH /vessels/9321483', { json, headers: { 'content-type': type } }, lanes);
    expect(patch({ berth: { side: 'port' }, tags: null }).json).toEqual({
      imo: '9321483',
      name: 'Petrel',
      length: 80,
      port: 'North',
      berth: { quay: 'East', side: 'port' },
    });
    const operations = [
      { op: 'test', path: '/port', value: 'North' },
      { op: 'replace', path: '/port', value: 'West' },
    ];
    expect(patch(operations, 'application/json-patch+json').json).toMatchObject({ port: 'West' });
    expect(patch(operations, 'application/json-patch+json')).toMatchObject({
      status: 422,
      json: { detail: /operation 1/ },
    });
    expect(patch({ length: 'long' })).toMatchObject({ status: 422 });
    expect(patch({ length: null })).toMatchObject({ status: 422, json: { detail: 'length is missing' } });
  });

  test('is removed once, and a new one of that key comes last', () => {
    const lanes = new Lanes('seed');
    expect(tell(SERVED, 'DELETE /vessels/9321483', {}, lanes).status).toBe(204);
    expect(tell(SERVED, 'DELETE /vessels/9321483', {}, lanes).status).toBe(404);
    tell(SERVED, 'POST /vessels', { json: { imo: '9321483', name: 'Petrel', length: 80 } }, lanes);
    const { items, total } = tell(SERVED, 'GET /vessels', {}, lanes).json as {
      items: { name: string }[];
      total: number;
    };
    expect([items.at(-1)?.name, total]).toEqual(['Petrel', 4]);
  });

  test('is changed only as the caller knows it (RFC 9110, 13.1.1)', () => {
    const lanes = new Lanes('seed');
    const { etag = '' } = tell(SERVED, 'GET /vessels/9321483', {}, lanes).headers;
    const put = (headers: Record<string, string>) =>
      tell(SERVED, 'PUT /vessels/9321483', { json: { name: 'Petrel', length: 81 }, headers }, lanes).status;
    expect(put({ 'if-match': '"other"' })).toBe(412);
    expect(put({ 'if-match': `W/${etag}` })).toBe(412);
    expect(put({ 'if-none-match': '*' })).toBe(412);
    expect(put({ 'if-match': `"other", ${etag}` })).toBe(200);
    expect(put({ 'if-match': etag })).toBe(412);
    expect(put({ 'if-match': '*' })).toBe(200);
  });

  test('is not sent again to who has it', () => {
    const { etag = '' } = tell(SERVED, 'GET /vessels/9321483').headers;
    const again = tell(SERVED, 'GET /vessels/9321483', { headers: { 'if-none-match': `W/${etag}` } });
    expect(again).toEqual({ status: 304, headers: { etag }, json: null });
    expect(tell(SERVED, 'GET /vessels/9321483', { headers: { 'if-none-match': '"other"' } }).status).toBe(200);
  });
});

describe('the conventions of a resource', () => {
  const OWN = load(`${DATA}
resources:
  ships:
    of: vessels
    at: /ships
    allow: [list, read, replace]
    absent: create
    strict: true
    sort: -length
    page: { size: 2, most: 3, first: 0 }
    query: { compare: "{field}[{how}]", words: { above: gt, isnt: ne }, sort: orderBy, order: direction, size: per, search: false }
    answers:
      listed:
        headers: { x-total: "\${page.total}", link: "\${page.link}" }
        json: "\${page.rows.map(row, row.name)}"
      missing: { status: 410, text: "\${trouble.detail}" }
operations:
  readShip:
    on: GET /ships/{id}
    cases:
      - case: haunted
        when: { path id: "13" }
        answer: { status: 418, none: true }
`);

  test('are its own: names of parameters, words, pages, envelope', () => {
    const first = tell(OWN, 'GET /ships?length[gt]=9&orderBy=name&direction=desc&per=2');
    expect(first.json).toEqual(['Sula', 'Petrel']);
    expect(first.headers).toMatchObject({
      'x-total': '3',
      link: expect.stringContaining('</ships?length[gt]=9&orderBy=name&direction=desc&per=2&page=1>; rel="next"'),
    });
    expect(tell(OWN, 'GET /ships').json).toEqual(['Sula', 'Petrel']);
    expect(tell(OWN, 'GET /ships?per=99').json).toEqual(['Sula', 'Petrel', 'Anna Grey']);
    expect(tell(OWN, 'GET /ships?port[ne]=North&page=0').json).toEqual(['Sula', 'Gannet']);
    expect(tell(OWN, 'GET /ships?lenght=9')).toMatchObject({
      status: 400,
      json: { detail: 'query lenght: ships has no field "lenght"; did you mean length?' },
    });
    expect(tell(OWN, 'GET /ships?search=x').status).toBe(400);
  });

  test('stand after the cases of an operation at the same address', () => {
    expect(tell(OWN, 'GET /ships/13').status).toBe(418);
    expect(tell(OWN, 'GET /ships/9321483')).toMatchObject({ status: 200, json: { name: 'Petrel' } });
    expect(() => tell(OWN, 'GET /ships/14')).toThrow(/JSON/);
    expect(OWN.operations.map(({ name }) => name)).toEqual(['readShip', 'ships.list', 'ships.replace']);
  });

  test('may let PUT create what is not there', () => {
    const lanes = new Lanes('seed');
    expect(tell(OWN, 'PUT /ships/9', { json: { name: 'Tern' } }, lanes)).toMatchObject({
      status: 201,
      headers: { location: '/ships/9' },
      json: { imo: '9', name: 'Tern' },
    });
    expect(tell(OWN, 'PUT /ships/9', { json: { name: 'Skua' } }, lanes).status).toBe(200);
  });

  test('leave out what is not allowed', () => {
    expect(decide(OWN, 'DELETE /ships/9321483').kind).toBe('stray');
    expect(decide(OWN, 'POST /ships', { json: {} }).kind).toBe('stray');
  });
});

test('a key in the query is no field, and stands in no link', () => {
  const service = load(`${DATA}
access: { key: { query: Token, is: k-1 } }
resources: { vessels: { at: /vessels, strict: true, answers: { listed: { json: { self: "\${page.self}", next: "\${page.next}", link: "\${page.link}" } } } } }
operations: {}
`);
  const { status, json } = tell(service, 'GET /vessels?token=k-1&size=1');
  expect(status).toBe(200);
  expect(json).toMatchObject({ self: '/vessels?size=1', next: '/vessels?size=1&page=2' });
  expect(JSON.stringify(json)).not.toContain('k-1');
});

describe('a resource in the style of JSON:API', () => {
  const API = load(`${DATA}
resources:
  vessels: { at: /vessels, style: json-api, fits: { required: [name] } }
  bookings:
    at: /bookings
    style: json-api
    relations: { vessel: { of: vessels, where: { imo: imo } } }
operations: {}
`);

  test('lists resource objects with links and what belongs to them', () => {
    const { json, headers } = tell(
      API,
      'GET /bookings?include=vessel&filter[imo]=9321483&sort=-no&page[size]=1&fields[bookings]=berth',
    );
    expect(headers['content-type']).toBe('application/vnd.api+json');
    expect(json).toMatchObject({
      data: [
        {
          type: 'bookings',
          id: '7',
          attributes: { berth: 'N9' },
          relationships: { vessel: { data: { type: 'vessels', id: '9321483' } } },
        },
      ],
      included: [{ type: 'vessels', id: '9321483', attributes: { name: 'Petrel' } }],
      links: {
        first: expect.stringContaining('page[number]=1'),
        prev: null,
        next: expect.stringContaining('page[number]=2'),
        last: expect.stringContaining('page[number]=2'),
      },
      meta: { total: 2 },
    });
    expect((json as { data: { attributes: object }[] }).data[0]?.attributes).toEqual({ berth: 'N9' });
    expect(tell(API, 'GET /bookings?filter[no][above]=1').json).toMatchObject({ meta: { total: 2 } });
  });

  test('reads what is sent in a document, and answers with one', () => {
    const lanes = new Lanes('seed');
    const data = {
      type: 'bookings',
      attributes: { berth: 'S9' },
      relationships: { vessel: { data: { type: 'vessels', id: '9321484' } } },
    };
    const made = tell(API, 'POST /bookings', { json: { data } }, lanes);
    expect(made).toMatchObject({
      status: 201,
      headers: { location: '/bookings/8' },
      json: { data: { type: 'bookings', id: '8', attributes: { berth: 'S9', imo: '9321484' } } },
    });
    const change = { data: { type: 'bookings', id: '8', attributes: { berth: 'S1' } } };
    expect(tell(API, 'PATCH /bookings/8', { json: change }, lanes).json).toMatchObject({
      data: { attributes: { berth: 'S1', imo: '9321484' } },
    });
  });

  test('tells troubles as errors', () => {
    expect(tell(API, 'GET /vessels/1').json).toEqual({
      errors: [{ status: '404', title: 'There is no such row', detail: 'vessels: imo 1' }],
    });
    expect(tell(API, 'POST /vessels', { json: { data: { type: 'vessels', attributes: {} } } }).json).toMatchObject({
      errors: [{ status: '422', detail: 'name is missing', source: { pointer: '/data/attributes/name' } }],
    });
    expect(tell(API, 'POST /vessels', { json: { data: { type: 'ships' } } }).status).toBe(409);
    expect(tell(API, 'POST /vessels', { json: { name: 'Tern' } }).status).toBe(400);
    expect(tell(API, 'GET /bookings?include=crew').status).toBe(400);
  });
});

describe('rows that are made', () => {
  const MADE = `
upsetter: 1
service: harbour-office
seed: SEED
datasets:
  vessels:
    key: imo
    rows: [{ imo: 1, name: Petrel }]
    make: { count: 500, row: { imo: "\${next('imo', 2)}", name: "\${fake('person.lastName')}", length: "\${between(20, 300)}" } }
resources: { vessels: { at: /vessels } }
operations: {}
`;
  const listAt = (seed: string) =>
    tell(load(MADE.replace('SEED', seed)), 'GET /vessels?size=501').json as { total: number };

  test('stand after those that are written, and are the same for the same seed', () => {
    expect(listAt('a')).toMatchObject({ total: 501 });
    expect(listAt('a')).toEqual(listAt('a'));
    expect(listAt('a')).not.toEqual(listAt('b'));
  });

  test.each([
    [
      'imo: 5',
      `13:22 row 2 that is made: a second row with \`imo: 5\`; next("NAME") and uuid() never give a value twice`,
    ],
    ['name: x', 'row 1 that is made: this row has no `imo`, the key of vessels'],
    ['imo: "${now}"', 'rows are made before any call: `now` is not there'],
    ['imo: "${number(\'x\')}"', 'row 1 cannot be made'],
  ])('are refused where each is { %s }', (row, message) => {
    const [found = ''] = mistakes(MADE.replace(/row: \{ imo.*\} \}/, `row: { ${row} } }`));
    expect(found).toContain(message.replace(/^\d+:\d+ /, ''));
  });
});

describe('a resource with mistakes is refused with its line', () => {
  const of = (resource: string, operations = '{}') =>
    mistakes(`${DATA.trim()}\nresources:\n  vessels: ${resource}\noperations: ${operations}\n`);

  test.each([
    ['{ at: vessels }', '`at` is a path such as /vessels, or a list of them'],
    ['{ at: /vessels, of: vesels }', 'there is no dataset `vesels`; did you mean `vessels`?'],
    ['{ at: /vessels, allow: [write] }', '`allow` lists list, read, create, replace, merge, remove'],
    ['{ at: /vessels, fits: { type: ship } }', '`fits` is no JSON Schema'],
    ['{ at: /vessels, query: { compare: "{field}" } }', '`compare` holds {field} and {how}'],
    ['{ at: /vessels, relations: { crew: { of: crews, where: { imo: imo } } } }', 'there is no dataset `crews`'],
    ['{ at: /vessels, answers: { found: { json: "${page.row}" } } }', 'a page has no `row`; did you mean `rows`?'],
    ['{ at: /vessels, answers: { found: { turns: { list: [{ none: true }] } } } }', 'no `turns` and no `relay`'],
    ['{ at: "/vessels/{imo" }', 'a parameter is a segment'],
  ])('%s', (resource, message) => {
    const [found = '', ...more] = of(resource);
    expect(found).toContain(message);
    expect(found).toMatch(/^\d+:\d+ /);
    expect(more).toEqual([]);
  });

  test('two resources at one path', () => {
    const text = `${DATA.trim()}\nresources:\n  vessels: { at: /all, allow: [list] }\n  bookings: { at: /all, allow: [list] }\noperations: {}\n`;
    expect(mistakes(text)).toEqual([
      expect.stringContaining('GET /all has a case `resource` already, in operation `vessels.list`'),
    ]);
  });
});

describe('the row of an answer', () => {
  test('is picked by the call, beside that of the operation', () => {
    const service = load(`${DATA}
operations:
  readBooking:
    on: GET /bookings/{no}
    row: { of: bookings, where: { no: "\${call.path.no}" } }
    cases:
      - case: known
        when: { row no: { present: true } }
        answer:
          row: { of: vessels, where: { imo: "\${row.imo}" } }
          json: { vessel: "\${row.name}" }
      - case: unknown
        answer:
          row: { of: vessels, where: { name: "\${call.query.vessel}" } }
          json: { length: "\${row.length}" }
`);
    expect(tell(service, 'GET /bookings/2').json).toEqual({ vessel: 'Sula' });
    expect(tell(service, 'GET /bookings/9?vessel=Gannet').json).toEqual({ length: 9 });
    expect(tell(service, 'GET /bookings/9?vessel=Nobody').json).toEqual({ length: null });
  });
});
