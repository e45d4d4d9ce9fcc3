import { randomBytes } from 'node:crypto';
import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Show {
  readonly id: number;
  readonly title: string;
  readonly genre: string;
  readonly opens: string;
  readonly isHidden: boolean;
}

interface Seat {
  readonly id: number;
  readonly showId: number;
  readonly row: string;
  readonly holder: string | null;
}

const STARTING: readonly Show[] = [
  { id: 1, title: 'The Tempest Tide', genre: 'drama', opens: '2026-04-01', isHidden: false },
  { id: 2, title: 'Three Pilots', genre: 'comedy', opens: '2026-04-09', isHidden: false },
];

/** A token in the query; numbers as ids, over all shows; a list at the top; a switch; PUT that makes or replaces; DELETE that answers what it took; progress in steps; refusals within refusals. */
function createPlayhouse(): FastifyInstance {
  const app = fastify();
  const tokens = new Set<string>();
  const shows = new Map(STARTING.map((show) => [show.id, show]));
  const seats = new Map<number, Seat>();
  const programmes = new Map<string, { slug: string; pages: number; updated: string }>();
  const prints = new Map<number, number>();
  let nextShow = 3;
  let nextSeat = 501;
  const refuse = (status: number, code: string, text: string) => ({ status, fault: { code, text } });
  app.post<{ Body: { pin: string } }>('/doors', async (_request, reply) => {
    const token = randomBytes(16).toString('base64url');
    tokens.add(token);
    return reply.code(201).send({ token, keeps: 3600 });
  });
  app.addHook('onRequest', async (request, reply) => {
    if (request.url === '/doors') return;
    const { token = '' } = request.query as { token?: string };
    if (!tokens.has(token)) await reply.code(401).send(refuse(401, 'door_shut', 'the door is shut'));
  });
  app.get<{ Querystring: { genre?: string; hidden?: string } }>('/shows', async (request) => {
    const { genre, hidden } = request.query;
    return [...shows.values()].filter(
      (show) => (genre === undefined || show.genre === genre) && (hidden === 'yes' || !show.isHidden),
    );
  });
  app.post<{ Body: { title?: string; genre: string; opens: string } }>('/shows', async (request, reply) => {
    const { title, genre, opens } = request.body;
    if (title === undefined) return reply.code(422).send(refuse(422, 'no_title', 'a show needs a title'));
    const show: Show = { id: nextShow++, title, genre, opens, isHidden: false };
    shows.set(show.id, show);
    return reply.code(201).send(show);
  });
  const find = (id: string): Show | undefined => shows.get(Number(id));
  const missing = (id: string) => refuse(404, 'no_show', `show ${id} does not play here`);
  app.get<{ Params: { id: string } }>('/shows/:id', async (request, reply) => {
    return find(request.params.id) ?? reply.code(404).send(missing(request.params.id));
  });
  app.post<{ Params: { id: string } }>('/shows/:id/switch', async (request, reply) => {
    const show = find(request.params.id);
    if (show === undefined) return reply.code(404).send(missing(request.params.id));
    const changed = { ...show, isHidden: !show.isHidden };
    shows.set(show.id, changed);
    return changed;
  });
  app.delete<{ Params: { id: string } }>('/shows/:id', async (request, reply) => {
    const show = find(request.params.id);
    if (show === undefined) return reply.code(404).send(missing(request.params.id));
    shows.delete(show.id);
    return { removed: show };
  });
  app.post<{ Params: { id: string }; Body: { row: string } }>('/shows/:id/seats', async (request, reply) => {
    const show = find(request.params.id);
    if (show === undefined) return reply.code(404).send(missing(request.params.id));
    const seat: Seat = { id: nextSeat++, showId: show.id, row: request.body.row, holder: null };
    seats.set(seat.id, seat);
    return reply.code(201).send(seat);
  });
  app.get<{ Params: { id: string } }>('/shows/:id/seats', async (request) => {
    const own = [...seats.values()].filter(({ showId }) => showId === Number(request.params.id));
    return { seats: own, free: own.filter(({ holder }) => holder === null).length, count: own.length };
  });
  app.patch<{ Params: { seat: string }; Body: { holder: string | null } }>('/seats/:seat', async (request, reply) => {
    const seat = seats.get(Number(request.params.seat));
    if (seat === undefined) return reply.code(404).send(refuse(404, 'no_seat', `no seat ${request.params.seat}`));
    if (seat.holder !== null && request.body.holder !== null)
      return reply.code(409).send(refuse(409, 'taken', `seat ${seat.id} is held by ${seat.holder}`));
    seats.set(seat.id, { ...seat, ...request.body });
    return reply.code(204).send();
  });
  app.put<{ Params: { slug: string }; Body: { pages: number } }>('/programmes/:slug', async (request, reply) => {
    const { slug } = request.params;
    const isNew = !programmes.has(slug);
    const programme = { slug, pages: request.body.pages, updated: new Date().toISOString() };
    programmes.set(slug, programme);
    return reply.code(isNew ? 201 : 200).send(programme);
  });
  app.get<{ Params: { slug: string } }>('/programmes/:slug', async (request, reply) => {
    const { slug } = request.params;
    return programmes.get(slug) ?? reply.code(404).send(refuse(404, 'no_programme', `no programme ${slug}`));
  });
  app.post<{ Body: { slug: string } }>('/prints', async (request, reply) => {
    const id = prints.size + 71;
    prints.set(id, 0);
    return reply.code(202).send({ id, slug: request.body.slug, percent: 0, state: 'printing' });
  });
  app.get<{ Params: { id: string } }>('/prints/:id', async (request) => {
    const id = Number(request.params.id);
    const percent = Math.min(100, (prints.get(id) ?? 0) + 50);
    prints.set(id, percent);
    return { id, percent, state: percent === 100 ? 'printed' : 'printing' };
  });
  return app;
}

interface Evening {
  readonly shows: readonly {
    readonly title: string;
    readonly genre: string;
    readonly opens: string;
    readonly rows: readonly string[];
  }[];
  readonly holders: readonly string[];
  readonly programme: string;
  readonly pages: readonly [number, number];
  readonly struck: number;
}

async function play(plain: Ask, evening: Evening): Promise<void> {
  const door = await plain('GET', '/shows');
  expectThat((door.json as { fault: { code: string } }).fault.code === 'door_shut', 'a shut door');
  const { token } = (await plain('POST', '/doors', { json: { pin: '4711' } })).json as { token: string };
  const ask: Ask = (method, path, asked) =>
    plain(method, `${path}${path.includes('?') ? '&' : '?'}token=${token}`, asked);
  const list = async (more = ''): Promise<readonly Show[]> => (await ask('GET', `/shows${more}`)).json as Show[];
  const before = await list();
  expectThat(before.length === STARTING.length, 'what plays already');
  const made: Show[] = [];
  for (const { rows: _rows, ...sent } of evening.shows) {
    const show = (await ask('POST', '/shows', { json: sent })).json as Show;
    expectThat(show.title === sent.title && show.opens === sent.opens && !show.isHidden, 'a show as sent');
    expectThat(show.id > 2 && made.every(({ id }) => id < show.id), 'a number of its own');
    made.push(show);
  }
  expectThat((await ask('POST', '/shows', { json: { genre: 'x', opens: '2026-05-01' } })).status === 422, 'no title');
  expectThat((await list()).length === before.length + made.length, 'all shows');
  const [first, ...others] = made as [Show, ...Show[]];
  const sameGenre = [...before, ...made].filter(({ genre }) => genre === first.genre);
  expectThat((await list(`?genre=${first.genre}`)).length === sameGenre.length, 'shows of a genre');
  expectThat(((await ask('POST', `/shows/${first.id}/switch`)).json as Show).isHidden, 'it hidden');
  expectThat(
    (await list()).every(({ id }) => id !== first.id),
    'it not listed',
  );
  expectThat(
    (await list('?hidden=yes')).some(({ id }) => id === first.id),
    'it listed with the hidden',
  );
  expectThat(!((await ask('POST', `/shows/${first.id}/switch`)).json as Show).isHidden, 'it shown again');
  for (const [i, show] of made.entries()) {
    const seats: Seat[] = [];
    for (const row of evening.shows[i]?.rows ?? []) {
      const seat = (await ask('POST', `/shows/${show.id}/seats`, { json: { row } })).json as Seat;
      expectThat(seat.row === row && seat.showId === show.id && seat.holder === null, 'a free seat');
      seats.push(seat);
    }
    const [seat] = seats as [Seat, ...Seat[]];
    const holder = evening.holders[i] ?? 'nobody';
    expectThat((await ask('PATCH', `/seats/${seat.id}`, { json: { holder } })).status === 204, 'the seat taken');
    const again = await ask('PATCH', `/seats/${seat.id}`, { json: { holder: 'Late' } });
    expectThat(
      (again.json as { fault: { text: string } }).fault.text === `seat ${seat.id} is held by ${holder}`,
      'who holds it',
    );
    const own = (await ask('GET', `/shows/${show.id}/seats`)).json as { seats: Seat[]; free: number; count: number };
    expectThat(own.count === seats.length && own.free === seats.length - 1, 'the free ones counted');
    expectThat(own.seats[0]?.holder === holder, 'the holder in the list');
  }
  const { programme, pages } = evening;
  expectThat((await ask('GET', `/programmes/${programme}`)).status === 404, 'no programme yet');
  expectThat((await ask('PUT', `/programmes/${programme}`, { json: { pages: pages[0] } })).status === 201, 'it made');
  expectThat(
    (await ask('PUT', `/programmes/${programme}`, { json: { pages: pages[1] } })).status === 200,
    'it replaced',
  );
  const kept = (await ask('GET', `/programmes/${programme}`)).json as { slug: string; pages: number };
  expectThat(kept.slug === programme && kept.pages === pages[1], 'it kept');
  const print = (await ask('POST', '/prints', { json: { slug: programme } })).json as { id: number; percent: number };
  expectThat(print.percent === 0, 'a print begun');
  let state = 'printing';
  for (let asked = 0; state !== 'printed' && asked < 20; asked++)
    state = ((await ask('GET', `/prints/${print.id}`)).json as { state: string }).state;
  expectThat(state === 'printed', 'it printed in the end');
  const struck = made[evening.struck] ?? first;
  const removed = (await ask('DELETE', `/shows/${struck.id}`)).json as { removed: Show };
  expectThat(removed.removed.title === struck.title, 'what was struck');
  const gone = await ask('GET', `/shows/${struck.id}`);
  expectThat(
    (gone.json as { fault: { text: string } }).fault.text === `show ${struck.id} does not play here`,
    'it gone',
  );
  expectThat((await list()).length === before.length + others.length, 'one fewer');
}

export const playhouse: World = {
  habits:
    'a token in the query, a switch, PUT that makes or replaces, progress in steps, counts of some, refusals within refusals',
  create: createPlayhouse,
  first: (ask) =>
    play(ask, {
      shows: [
        { title: 'Salt and Lanterns', genre: 'drama', opens: '2026-05-02', rows: ['A', 'B', 'C'] },
        { title: 'The Harbour Master', genre: 'comedy', opens: '2026-06-11', rows: ['D', 'E'] },
      ],
      holders: ['Ida', 'Ola'],
      programme: 'spring-card',
      pages: [8, 12],
      struck: 1,
    }),
  similar: (ask) =>
    play(ask, {
      shows: [
        { title: 'Ebb', genre: 'drama', opens: '2026-07-12', rows: ['K', 'L', 'M'] },
        { title: 'Flood', genre: 'comedy', opens: '2026-08-03', rows: ['N', 'P'] },
      ],
      holders: ['Per', 'Eli'],
      programme: 'summer-card',
      pages: [4, 6],
      struck: 1,
    }),
  second: (ask) =>
    play(ask, {
      shows: [
        { title: 'Low Water', genre: 'comedy', opens: '2026-09-01', rows: ['R', 'S'] },
        { title: 'A Keeper of Lights', genre: 'farce', opens: '2026-09-21', rows: ['T', 'U', 'V', 'W'] },
        { title: 'Bells', genre: 'comedy', opens: '2026-10-10', rows: ['X', 'Y', 'Z'] },
      ],
      holders: ['Kai', 'Liv', 'Mo'],
      programme: 'autumn-card',
      pages: [20, 24],
      struck: 0,
    }),
};
