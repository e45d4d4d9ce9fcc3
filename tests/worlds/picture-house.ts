import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Film {
  readonly id: number;
  readonly title: string;
  readonly year: number;
  readonly starred: boolean;
}

interface Review {
  readonly id: string;
  readonly film: number;
  readonly stars: number;
  readonly text: string;
}

const TITLES: readonly (readonly [title: string, year: number])[] = [
  ['Low water', 1931],
  ['The lamp', 1934],
  ['Herring road', 1938],
];

/** A search that is posted, several made at once, things made without being shown, marks put on and taken off. */
function createPictureHouse(): FastifyInstance {
  const app = fastify();
  const films = new Map<number, Film>(
    TITLES.map(([title, year], i) => [i + 1, { id: i + 1, title, year, starred: false }]),
  );
  const reviews = new Map<string, Review>();
  let made = TITLES.length;
  let reviewed = 100;
  app.get('/films', async () => ({ films: [...films.values()] }));
  app.post<{ Body: { title: string } }>('/films/search', async ({ body }) => {
    const found = [...films.values()].filter(({ title }) => title.toLowerCase().includes(body.title.toLowerCase()));
    return { found, total: found.length };
  });
  app.post<{ Body: { title: string; year: number }[] }>('/films/batch', async ({ body }, reply) => {
    const added = body.map(({ title, year }): Film => ({ id: ++made, title, year, starred: false }));
    for (const film of added) films.set(film.id, film);
    return reply.code(201).send(added);
  });
  app.get<{ Params: { id: string } }>('/films/:id', async ({ params }, reply) => {
    return films.get(Number(params.id)) ?? reply.code(404).send({ code: 404, message: `no film ${params.id}` });
  });
  for (const method of ['PUT', 'DELETE'] as const)
    app.route<{ Params: { id: string } }>({
      method,
      url: '/films/:id/star',
      handler: async ({ params }, reply) => {
        const film = films.get(Number(params.id));
        if (film === undefined) return reply.code(404).send({ code: 404, message: `no film ${params.id}` });
        films.set(film.id, { ...film, starred: method === 'PUT' });
        return reply.code(204).send();
      },
    });
  app.get('/starred', async () =>
    [...films.values()].filter(({ starred }) => starred).map(({ id, title }) => ({ id, title })),
  );
  app.post<{ Body: { film: number; stars: number; text: string } }>('/reviews', async ({ body }, reply) => {
    const id = `R${++reviewed}`;
    reviews.set(id, { id, ...body });
    return reply.code(201).header('location', `/reviews/${id}`).send();
  });
  app.get<{ Params: { id: string } }>('/reviews/:id', async ({ params }, reply) => {
    return reviews.get(params.id) ?? reply.code(404).send({ code: 404, message: `no review ${params.id}` });
  });
  app.get<{ Querystring: { film: string } }>('/reviews', async ({ query }) =>
    [...reviews.values()].filter(({ film }) => query.film === undefined || film === Number(query.film)),
  );
  app.delete<{ Params: { id: string } }>('/reviews/:id', async ({ params }, reply) => {
    reviews.delete(params.id);
    return reply.code(204).send();
  });
  return app;
}

interface Day {
  readonly added: readonly (readonly [title: string, year: number])[];
  readonly search: string;
  readonly found: readonly string[];
  readonly starred: readonly number[];
  readonly unstarred: number;
  readonly reviews: readonly (readonly [film: number, stars: number, text: string])[];
  readonly gone: readonly number[];
}

async function play(ask: Ask, day: Day): Promise<void> {
  const before = (await ask('GET', '/films')).json as { films: Film[] };
  expectThat(before.films.length === TITLES.length, 'the films there are');
  const json = day.added.map(([title, year]) => ({ title, year }));
  const added = (await ask('POST', '/films/batch', { json })).json as Film[];
  expectThat(added.map(({ title }) => title).join() === day.added.map(([title]) => title).join(), 'what was added');
  for (const film of added)
    expectThat(((await ask('GET', `/films/${film.id}`)).json as Film).title === film.title, `${film.title} by its id`);
  const search = (await ask('POST', '/films/search', { json: { title: day.search } })).json as {
    found: Film[];
    total: number;
  };
  expectThat(search.found.map(({ title }) => title).join() === day.found.join(), `${day.found.length} found`);
  expectThat(search.total === day.found.length, 'the total');
  expectThat(((await ask('GET', '/starred')).json as Film[]).length === 0, 'no star yet');
  for (const id of day.starred) expectThat((await ask('PUT', `/films/${id}/star`)).status === 204, `a star for ${id}`);
  const ids = ((await ask('GET', '/starred')).json as Film[]).map(({ id }) => id);
  expectThat([...day.starred].sort((a, b) => a - b).join() === ids.join(), `starred ${day.starred}`);
  expectThat(((await ask('GET', `/films/${day.starred[0]}`)).json as Film).starred, 'a star on it');
  await ask('DELETE', `/films/${day.unstarred}/star`);
  expectThat(!((await ask('GET', `/films/${day.unstarred}`)).json as Film).starred, 'no star on it');
  const left = ((await ask('GET', '/starred')).json as Film[]).map(({ id }) => id);
  expectThat(!left.includes(day.unstarred) && left.length === day.starred.length - 1, 'one star less');
  const made: string[] = [];
  for (const [film, stars, text] of day.reviews) {
    const answer = await ask('POST', '/reviews', { json: { film, stars, text } });
    made.push((answer.headers.get('location') ?? '').split('/').at(-1) ?? '');
  }
  for (const [i, id] of made.entries())
    expectThat(((await ask('GET', `/reviews/${id}`)).json as Review).text === day.reviews[i]?.[2], `review ${id}`);
  const [film = 0] = day.reviews[0] ?? [];
  const own = ((await ask('GET', `/reviews?film=${film}`)).json as Review[]).map(({ text }) => text);
  expectThat(
    own.join() === day.reviews.flatMap((item) => (item[0] === film ? [item[2]] : [])).join(),
    `those of ${film}`,
  );
  const gone = day.gone.map((index) => made[index] ?? '');
  for (const id of gone) expectThat((await ask('DELETE', `/reviews/${id}`)).status === 204, `${id} gone`);
  const rest = ((await ask('GET', '/reviews')).json as Review[]).map(({ id }) => id);
  expectThat(rest.join() === made.filter((id) => !gone.includes(id)).join(), 'the others left');
}

export const pictureHouse: World = {
  habits: 'a posted search, several made at once, things made unseen, marks',
  create: createPictureHouse,
  first: (ask) =>
    play(ask, {
      added: [
        ['The long pier', 1936],
        ['Gulls', 1940],
      ],
      search: 'the',
      found: ['The lamp', 'The long pier'],
      starred: [2, 4],
      unstarred: 2,
      reviews: [
        [2, 4, 'bright'],
        [4, 5, 'long indeed'],
        [2, 3, 'dim'],
      ],
      gone: [0, 1],
    }),
  second: (ask) =>
    play(ask, {
      added: [
        ['Peat smoke', 1933],
        ['The ferry', 1935],
        ['Ice on the lamp', 1941],
      ],
      search: 'lamp',
      found: ['The lamp', 'Ice on the lamp'],
      starred: [5, 1, 3],
      unstarred: 3,
      reviews: [
        [1, 2, 'wet'],
        [5, 5, 'homely'],
        [1, 3, 'damp'],
        [6, 4, 'cold'],
      ],
      gone: [3, 0],
    }),
  similar: (ask) =>
    play(ask, {
      added: [
        ['The mole', 1937],
        ['Terns', 1939],
      ],
      search: 'the',
      found: ['The lamp', 'The mole'],
      starred: [2, 4],
      unstarred: 2,
      reviews: [
        [2, 1, 'no'],
        [4, 2, 'hardly'],
        [2, 5, 'yes'],
      ],
      gone: [0, 1],
    }),
};
